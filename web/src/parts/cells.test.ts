import { expect, test } from "vitest";
import { moveBy } from "./cells";

test("arrows lead one cell on and stay inside the table", () => {
  expect(moveBy({ row: 0, column: 0 }, "ArrowLeft", 3, 4)).toEqual({ row: 0, column: 0 });
  expect(moveBy({ row: 2, column: 1 }, "ArrowDown", 3, 4)).toEqual({ row: 2, column: 1 });
  expect(moveBy({ row: 1, column: 1 }, "ArrowUp", 3, 4)).toEqual({ row: 0, column: 1 });
  expect(moveBy({ row: 1, column: 1 }, "ArrowRight", 3, 4)).toEqual({ row: 1, column: 2 });
});

test("Home and End lead along the row, pages along the column, Ctrl over a group", () => {
  expect(moveBy({ row: 1, column: 1 }, "End", 3, 4)).toEqual({ row: 1, column: 3 });
  expect(moveBy({ row: 1, column: 3 }, "Home", 3, 4)).toEqual({ row: 1, column: 0 });
  expect(moveBy({ row: 90, column: 3 }, "PageUp", 100, 4)).toEqual({ row: 58, column: 3 });
  expect(moveBy({ row: 0, column: 0 }, "ArrowDown", 100, 100, true)).toEqual({ row: 16, column: 0 });
});

test("other keys lead nowhere", () => {
  expect(moveBy({ row: 1, column: 1 }, "a", 3, 4)).toBeNull();
});
