/** A place in a table of cells. */
export interface Cell {
  row: number;
  column: number;
}

/** How far keys lead over a large table: a page of rows, a group of cells with Ctrl. */
const PAGE = 32;
const FAR = 16;

/** Where a key leads from a cell, kept inside the table: arrows, Home and End along the row, pages along the column; null for other keys. */
export function moveBy(at: Cell, key: string, rows: number, columns: number, far = false): Cell | null {
  const by = far ? FAR : 1;
  const steps: Record<string, [number, number]> = {
    ArrowUp: [-by, 0],
    ArrowDown: [by, 0],
    ArrowLeft: [0, -by],
    ArrowRight: [0, by],
    PageUp: [-PAGE, 0],
    PageDown: [PAGE, 0],
    Home: [0, -columns],
    End: [0, columns],
  };
  const step = steps[key];
  if (!step) return null;
  return { row: inside(at.row + step[0], rows), column: inside(at.column + step[1], columns) };
}

function inside(value: number, count: number): number {
  return Math.max(0, Math.min(count - 1, value));
}
