import { expect, test } from "vitest";
import { called, isTable, leftOver } from "./model";

test("what has no place stays for mending, under its headings", () => {
  const lost = [{ line: 3, text: "abc\tbad", reason: "no number" }];
  expect(leftOver({ headings: ["id", "name"], lost })).toBe("id\tname\nabc\tbad");
  expect(leftOver({ headings: [], lost })).toBe("abc\tbad");
});

test("a table is several lines, or cells; a word is none", () => {
  expect(isTable("10\tstaff")).toBe(true);
  expect(isTable("10 staff\n20 guests")).toBe(true);
  expect(isTable("10.64.110.0/24\n")).toBe(false);
});

test("every kind has a name", () => {
  expect(called("lags")).toBe("bundles");
  expect(called("boats")).toBe("boats");
});
