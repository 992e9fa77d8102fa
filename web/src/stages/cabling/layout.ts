import type { ELK, ElkNode } from "elkjs/lib/elk-api";
import { beats, type Cabling, combSize, combsOf, depths, isBeside, lineId, nodesOf, type Placed, runsAcross, TOOTH } from "./model";

const OPTIONS = {
  "elk.algorithm": "layered",
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

/** The layout engine, fetched when the first drawing is made; it works beside the page, in a worker of its own. */
function elk(): Promise<ELK> {
  engine ??= Promise.all([import("elkjs/lib/elk-api.js"), import("elkjs/lib/elk-worker.min.js?url")]).then(
    ([api, worker]) => new api.default({ workerUrl: worker.default }),
  );
  return engine;
}

/** As many drawings are kept as a person goes back and forth between: plain, VLANs, segments, of two designs, before and after an edit. */
const KEPT = 12;
const laid = new Map<string, Promise<ElkNode>>();

/** Lay a graph out, or take the layout it had at the last visit. */
function placed(graph: ElkNode): Promise<ElkNode> {
  const key = JSON.stringify(graph);
  const found = laid.get(key) ?? elk().then((engine) => engine.layout(graph));
  laid.delete(key); // the one that was asked for last is the last to go
  laid.set(key, found);
  found.catch(() => laid.delete(key));
  for (const old of [...laid.keys()].slice(0, -KEPT)) laid.delete(old);
  return found;
}

/** Place the boxes and segments of the drawing above the cable, from the top down. */
export async function layOutSegments(
  nodes: { id: string; width: number; height: number; tier: number }[],
  edges: { id: string; ends: [string, string] }[],
): Promise<Placed> {
  const graph: ElkNode = {
    id: "segments",
    layoutOptions: { ...OPTIONS, "elk.direction": "DOWN", "elk.spacing.nodeNode": "18", "elk.layered.spacing.nodeNodeBetweenLayers": "34" },
    children: nodes.map((n) => ({ id: n.id, width: n.width, height: n.height, layoutOptions: { "elk.partitioning.partition": String(n.tier) } })),
    edges: edges.map((e) => ({ id: e.id, sources: [e.ends[0]], targets: [e.ends[1]] })),
  };
  const done = await placed(graph);
  const boxes = Object.fromEntries((done.children ?? []).map((c) => [c.id, { x: c.x ?? 0, y: c.y ?? 0, width: c.width ?? 0, height: c.height ?? 0 }]));
  const lines = Object.fromEntries(
    (done.edges ?? []).flatMap((e) =>
      e.sections?.[0] ? [[e.id, [e.sections[0].startPoint, ...(e.sections[0].bendPoints ?? []), e.sections[0].endPoint]]] : [],
    ),
  );
  return { boxes, lines, teeth: [], width: done.width ?? 0, height: done.height ?? 0 };
}

/** Where the line from a box reaches its comb: from above, or from the left. */
function spineAt(across: boolean): { x: number; y: number } {
  return across ? { x: 0, y: TOOTH.top + TOOTH.height / 2 } : { x: 8, y: 0 };
}

/** Place boxes in layers from outside to endpoints, and lead the lines between them at right angles. */
export async function layOut(cabling: Cabling, told = false): Promise<Placed> {
  const combs = combsOf(cabling);
  const combed = new Set(Object.values(combs).flat());
  const nodes = nodesOf(cabling, combed, told);
  const across = runsAcross(cabling);
  const depth = depths(cabling);
  const tier = new Map(nodes.map((n) => [n.id, n.tier * 1000 + (depth.get(n.id) ?? 0)]));
  const free = cabling.lines.filter((l) => !isBeside(l) && !l.ends.some((e) => combed.has(e)));
  const graph: ElkNode = {
    id: "site",
    layoutOptions: {
      ...OPTIONS,
      ...(told ? { "elk.layered.spacing.nodeNodeBetweenLayers": "104", "elk.layered.spacing.edgeNodeBetweenLayers": "48" } : {}),
      "elk.direction": across ? "RIGHT" : "DOWN",
      ...(across ? { "elk.spacing.nodeNode": told ? "34" : "14" } : {}),
    },
    children: [
      ...nodes.map((n) => ({ id: n.id, width: n.width, height: n.height, layoutOptions: { "elk.partitioning.partition": String(n.tier) } })),
      ...Object.entries(combs).map(([owner, hosts]) => ({
        id: `comb ${owner}`,
        ...combSize(hosts),
        layoutOptions: { "elk.partitioning.partition": "5", "elk.portConstraints": "FIXED_POS" },
        ports: [{ id: `spine ${owner}`, ...spineAt(across), width: 0, height: 0 }],
      })),
    ],
    edges: [
      ...free.map((line) => {
        const [a = "", b = ""] = line.ends;
        const down = (tier.get(a) ?? 0) <= (tier.get(b) ?? 0);
        return { id: lineId(line), sources: [down ? a : b], targets: [down ? b : a] };
      }),
      ...Object.keys(combs).map((owner) => ({ id: `spine ${owner}`, sources: [owner], targets: [`spine ${owner}`] })),
    ],
  };
  const done = await placed(graph);
  const boxes: Placed["boxes"] = {};
  for (const c of done.children ?? []) if (!c.id.startsWith("comb ")) boxes[c.id] = { x: c.x ?? 0, y: c.y ?? 0, width: c.width ?? 0, height: c.height ?? 0 };
  const lines: Placed["lines"] = {};
  const led = (id: string) => {
    const section = done.edges?.find((e) => e.id === id)?.sections?.[0];
    return section ? [section.startPoint, ...(section.bendPoints ?? []), section.endPoint] : null;
  };
  for (const line of free) {
    const points = led(lineId(line));
    const [a = "", b = ""] = line.ends;
    if (points) lines[lineId(line)] = (tier.get(a) ?? 0) <= (tier.get(b) ?? 0) ? points : points.reverse();
  }
  const teeth: string[] = [];
  for (const [owner, hosts] of Object.entries(combs)) {
    const at = done.children?.find((c) => c.id === `comb ${owner}`);
    const spine = led(`spine ${owner}`);
    if (!at || !spine) continue;
    const { column } = combSize(hosts);
    for (const [k, host] of hosts.entries()) {
      const x = (at.x ?? 0) + 8 + Math.floor(k / TOOTH.column) * column;
      const y = (at.y ?? 0) + TOOTH.top + (k % TOOTH.column) * TOOTH.step;
      boxes[host] = { x: x + TOOTH.arm, y, width: column - TOOTH.arm - 14, height: TOOTH.height };
      const line = cabling.lines.find((l) => l.ends.includes(host));
      const points = [
        ...spine,
        { x, y: across ? (at.y ?? 0) + spineAt(across).y : (at.y ?? 0) },
        { x, y: y + TOOTH.height / 2 },
        { x: x + TOOTH.arm, y: y + TOOTH.height / 2 },
      ];
      if (!line) continue;
      lines[lineId(line)] = line.ends[0] === owner ? points : points.reverse();
      teeth.push(lineId(line));
    }
  }
  return { boxes, lines: { ...lines, ...beats(cabling, boxes) }, teeth, width: done.width ?? 0, height: done.height ?? 0 };
}
