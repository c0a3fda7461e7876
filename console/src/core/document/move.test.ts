import { expect, test } from "vitest";
import { applyChanges, moveEntry } from "./edit";
import { YamlText } from "./tree";

const move = (text: string, key: string, by: -1 | 1) =>
  applyChanges(text, moveEntry(new YamlText(text), ["params"], key, by));

test("an entry changes places with its neighbour, its comments and lines with it", () => {
  const text = "params:\n  # first\n  a: { type: int }\n  b:\n    type: string\n    label: x\nsteps: {}\n";
  const moved = "params:\n  b:\n    type: string\n    label: x\n  # first\n  a: { type: int }\nsteps: {}\n";
  expect(move(text, "a", 1)).toBe(moved);
  expect(move(moved, "a", -1)).toBe(text);
  expect(move(text, "a", -1)).toBe(text);
  expect(move(text, "b", 1)).toBe(text);
});

test("so it does between braces, and at the end of a file", () => {
  expect(move("params: { a: 1, b: 2 }\n", "b", -1)).toBe("params: { b: 2, a: 1 }\n");
  expect(move("params:\n  a: 1\n  b: 2", "a", 1)).toBe("params:\n  b: 2\n  a: 1");
});
