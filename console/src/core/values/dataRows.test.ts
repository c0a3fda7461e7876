import { expect, test } from "vitest";
import { dataRowsOf } from "./dataRows";

test("a list of maps is rows with columns and their types", () => {
  expect(
    dataRowsOf([
      { id: 1, litres: 100.5, taken: "2026-11-22T05:00:00Z", farm: null },
      { id: 2, litres: 90, taken: "2026-11-22T06:00:00Z", late: true, tags: ["a"] },
      { id: "3" },
    ])?.columns,
  ).toEqual([
    { name: "id", type: "any" },
    { name: "litres", type: "double" },
    { name: "taken", type: "timestamp" },
    { name: "farm", type: "null" },
    { name: "late", type: "bool" },
    { name: "tags", type: "list" },
  ]);
});

test.each([[[]], [[1, 2]], [[{ a: 1 }, null]], [{ a: 1 }], ["text"], [null]])("%j is none", (value) => {
  expect(dataRowsOf(value)).toBeNull();
});
