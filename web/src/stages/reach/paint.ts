import type { Looked, MapData, Scroll, Sight } from "./map";

interface Scene {
  data: MapData;
  looked: Looked;
  sight: Sight;
  zoom: number;
  scroll: Scroll;
  at: [number, number];
  picked: { from: string; to: string } | null;
}

/** Draw what is in sight: cells by shape first and colour second, names, lines between groups. */
export function paint(canvas: HTMLCanvasElement, scene: Scene): void {
  const { scroll, sight, zoom, data } = scene;
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.max(1, scroll.width * ratio);
  canvas.height = Math.max(1, scroll.height * ratio);
  canvas.style.width = `${scroll.width}px`;
  canvas.style.height = `${scroll.height}px`;
  const pen = canvas.getContext("2d");
  if (!pen) return;
  const style = getComputedStyle(canvas);
  const colour = (name: string) => style.getPropertyValue(`--color-${name}`).trim() || "#000";
  const inks: Inks = {
    open: colour("primary"),
    closed: colour("secondary"),
    broken: colour("error"),
    text: colour("base-content"),
    ground: colour("base-100"),
    mark: colour("accent"),
  };
  pen.scale(ratio, ratio);
  pen.fillStyle = inks.ground;
  pen.fillRect(0, 0, scroll.width, scroll.height);
  const x = (column: number) => sight.room.left + column * zoom - scroll.left;
  const y = (row: number) => sight.room.top + row * zoom - scroll.top;
  pen.save();
  pen.beginPath();
  pen.rect(sight.room.left, sight.room.top, scroll.width, scroll.height);
  pen.clip();
  for (let row = sight.rows[0]; row < sight.rows[1]; row++)
    for (let column = sight.columns[0]; column < sight.columns[1]; column++) {
      const told = scene.looked.get(`${data.axis[row]?.name} ${data.axis[column]?.name}`);
      cell(pen, inks, x(column), y(row), zoom, told ? `${told.verdict} ${told.tone}` : (data.rows[row]?.[column] ?? ""));
    }
  groupLines(pen, scene, x, y, inks);
  pen.restore();
  names(pen, style.fontFamily, scene, x, y, inks);
  const [a, b] = scene.at;
  pen.strokeStyle = inks.mark;
  pen.lineWidth = 2;
  if (x(b) >= sight.room.left && y(a) >= sight.room.top) pen.strokeRect(x(b) - 1, y(a) - 1, zoom + 1, zoom + 1);
}

interface Inks {
  open: string;
  closed: string;
  broken: string;
  text: string;
  ground: string;
  mark: string;
}

function cell(pen: CanvasRenderingContext2D, inks: Inks, x: number, y: number, size: number, says: string): void {
  const pad = size > 8 ? 2 : size > 4 ? 1 : 0.5;
  const [left, top, wide] = [x + pad, y + pad, size - 2 * pad];
  pen.lineWidth = size > 10 ? 1.4 : 1;
  if (says === "a" || says.startsWith("all")) {
    pen.fillStyle = inks.open;
    pen.beginPath();
    pen.arc(x + size / 2, y + size / 2, wide / 2, 0, 7);
    pen.fill();
  } else if (says === "s" || says.startsWith("some")) {
    pen.fillStyle = pen.strokeStyle = inks.open;
    pen.beginPath();
    pen.arc(x + size / 2, y + size / 2, wide / 2 - 0.5, 0, 7);
    if (size > 8) pen.stroke();
    pen.beginPath();
    pen.arc(x + size / 2, y + size / 2, wide / 2 - 0.5, 0, Math.PI);
    pen.fill();
  } else if (says === "n" || says.endsWith("closed")) {
    pen.strokeStyle = inks.closed;
    pen.globalAlpha = size > 8 ? 0.75 : 0.4;
    pen.strokeRect(left + wide * 0.15, top + wide * 0.15, wide * 0.7, wide * 0.7);
    pen.globalAlpha = 1;
  } else if (says.endsWith("broken")) {
    pen.strokeStyle = inks.broken;
    pen.lineWidth = size > 8 ? 2 : 1.2;
    pen.beginPath();
    pen.moveTo(left, top);
    pen.lineTo(left + wide, top + wide);
    pen.moveTo(left + wide, top);
    pen.lineTo(left, top + wide);
    pen.stroke();
  } else {
    const dot = Math.max(1, size / 8);
    const share = says >= "0" && says <= "9" ? Number(says) / 10 : null;
    pen.fillStyle = share === null ? inks.text : inks.open;
    if (share !== null) pen.fillRect(left, top + wide * (1 - Math.max(share, 0.05)), wide, wide * Math.max(share, 0.05));
    pen.strokeStyle = inks.closed;
    pen.globalAlpha = 0.35;
    if (share !== null) pen.strokeRect(left, top, wide, wide);
    else if (says !== "-" && says !== "") pen.fillRect(x + size / 2 - dot / 2, y + size / 2 - dot / 2, dot, dot);
    pen.globalAlpha = 1;
  }
}

function groupLines(pen: CanvasRenderingContext2D, { data, sight, scroll }: Scene, x: (k: number) => number, y: (k: number) => number, inks: Inks): void {
  pen.strokeStyle = inks.text;
  pen.globalAlpha = 0.25;
  pen.lineWidth = 1;
  pen.beginPath();
  for (let k = 1; k < data.axis.length; k++) {
    if (data.axis[k]?.group === data.axis[k - 1]?.group) continue;
    if (k >= sight.rows[0] && k <= sight.rows[1]) {
      pen.moveTo(sight.room.left, Math.round(y(k)) - 0.5);
      pen.lineTo(scroll.width, Math.round(y(k)) - 0.5);
    }
    if (k >= sight.columns[0] && k <= sight.columns[1]) {
      pen.moveTo(Math.round(x(k)) - 0.5, sight.room.top);
      pen.lineTo(Math.round(x(k)) - 0.5, scroll.height);
    }
  }
  pen.stroke();
  pen.globalAlpha = 1;
}

function names(
  pen: CanvasRenderingContext2D,
  family: string,
  { data, sight, scroll, zoom }: Scene,
  x: (k: number) => number,
  y: (k: number) => number,
  inks: Inks,
): void {
  const size = Math.min(12, zoom);
  pen.fillStyle = inks.text;
  pen.textBaseline = "middle";
  const clipped = (left: number, top: number, wide: number, high: number, draw: () => void) => {
    pen.save();
    pen.beginPath();
    pen.rect(left, top, wide, high);
    pen.clip();
    draw();
    pen.restore();
  };
  const tall = zoom >= 10; // smaller cells have room for the names of groups only
  clipped(0, sight.room.top, sight.room.left, scroll.height, () => {
    for (let k = sight.rows[0]; k < sight.rows[1]; k++) {
      const unit = data.axis[k];
      const head = k === sight.rows[0] || data.axis[k - 1]?.group !== unit?.group;
      if (unit && head)
        write(
          pen,
          `600 11px ${family}`,
          unit.folded ? `▸ ${unit.group} (${unit.segments.length})` : unit.group,
          4,
          y(k) + Math.max(zoom, 11) / 2,
          tall && !unit.folded ? 62 : 140,
        );
      if (unit && tall && !unit.folded) write(pen, `${size}px ${family}`, unit.name, 72, y(k) + zoom / 2, 76);
    }
  });
  clipped(sight.room.left, 0, scroll.width, sight.room.top, () => {
    for (let k = sight.columns[0]; k < sight.columns[1]; k++) {
      const unit = data.axis[k];
      const head = k === sight.columns[0] || data.axis[k - 1]?.group !== unit?.group;
      if (unit && head && !unit.folded) {
        let end = k + 1;
        while (end < sight.columns[1] && data.axis[end]?.group === unit.group) end += 1;
        const room = (end - k) * zoom - 4;
        if (room > 20) write(pen, `600 11px ${family}`, unit.group, x(k) + 1, 9, room);
      }
      if (!unit || !tall) continue;
      pen.save();
      pen.translate(x(k) + zoom / 2, sight.room.top - 4);
      pen.rotate(-Math.PI / 2);
      write(pen, `${unit.folded ? 600 : 400} ${size}px ${family}`, unit.name, 0, 0, 72);
      pen.restore();
    }
  });
}

function write(pen: CanvasRenderingContext2D, font: string, text: string, x: number, y: number, room: number): void {
  pen.font = font;
  let shown = text;
  while (shown.length > 2 && pen.measureText(shown).width > room) shown = `${shown.slice(0, -2)}…`;
  pen.fillText(shown, x, y);
}
