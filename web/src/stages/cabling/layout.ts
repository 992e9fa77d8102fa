import type { ELK, ElkNode } from "elkjs/lib/elk-api";
import { beats, type Cabling, lineId, nodesOf, type Placed } from "./model";

const OPTIONS = {
  "elk.algorithm": "layered",
  "elk.direction": "DOWN",
  "elk.edgeRouting": "ORTHOGONAL",
  "elk.partitioning.activate": "true",
  "elk.layered.spacing.nodeNodeBetweenLayers": "64",
  "elk.layered.spacing.edgeNodeBetweenLayers": "18",
  "elk.layered.spacing.edgeEdgeBetweenLayers": "11",
  "elk.spacing.nodeNode": "30",
  "elk.spacing.edgeEdge": "12",
  "elk.spacing.componentComponent": "40",
  "elk.layered.nodePlacement.strategy": "BRANDES_KOEPF",
  "elk.layered.nodePlacement.bk.fixedAlignment": "BALANCED",
};

let engine: Promise<ELK> | null = null;

/** The layout engine, fetched when the first drawing is made. */
function elk(): Promise<ELK> {
  engine ??= import("elkjs/lib/elk.bundled.js").then((m) => new m.default());
  return engine;
}

/** Place boxes in layers from outside to endpoints, and lead the lines between them at right angles. */
export async function layOut(cabling: Cabling): Promise<Placed> {
  const nodes = nodesOf(cabling);
  const tier = new Map(nodes.map((n) => [n.id, n.tier]));
  const graph: ElkNode = {
    id: "site",
    layoutOptions: OPTIONS,
    children: nodes.map((n) => ({ id: n.id, width: n.width, height: n.height, layoutOptions: { "elk.partitioning.partition": String(n.tier) } })),
    edges: cabling.lines.filter((l) => l.state !== "heartbeat").map((line) => {
      const [a = "", b = ""] = line.ends;
      const down = (tier.get(a) ?? 0) <= (tier.get(b) ?? 0);
      return { id: lineId(line), sources: [down ? a : b], targets: [down ? b : a] };
    }),
  };
  const done = await (await elk()).layout(graph);
  const boxes: Placed["boxes"] = {};
  for (const c of done.children ?? []) boxes[c.id] = { x: c.x ?? 0, y: c.y ?? 0, width: c.width ?? 0, height: c.height ?? 0 };
  const lines = beats(cabling, boxes);
  for (const line of cabling.lines) {
    const id = lineId(line);
    const section = done.edges?.find((e) => e.id === id)?.sections?.[0];
    if (!section) continue;
    const points = [section.startPoint, ...(section.bendPoints ?? []), section.endPoint];
    const [a = "", b = ""] = line.ends;
    lines[id] = (tier.get(a) ?? 0) <= (tier.get(b) ?? 0) ? points : points.reverse();
  }
  return { boxes, lines, width: done.width ?? 0, height: done.height ?? 0 };
}
