import { expect, test } from "vitest";
import { convert } from "./parameters";

test.each([
  ["", "int", 0],
  ["12", "int", 12],
  ["12.5", "int", 0],
  ["12.5", "double", 12.5],
  [7, "string", "7"],
  ["north", "bool", false],
  [true, "bool", true],
  ["5m", "duration", "5m"],
  ["1m30s", "duration", "1m30s"],
  ["north", "duration", "0s"],
  ["2026-11-22", "timestamp", "2026-11-22"],
  ["north", "list<string>", []],
  [["north"], "list", ["north"]],
  [["north"], "map", {}],
  [{ a: 1 }, "map", { a: 1 }],
  [{ a: 1 }, "string", ""],
  ["north", "any", "north"],
])("%j as %s is %j", (value, type, expected) => {
  expect(convert(value, type)).toEqual(expected);
});
