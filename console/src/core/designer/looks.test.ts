import { describe, expect, test } from "vitest";
import type { ExpressionResult } from "../api/types";
import { lookAt, partAt, piecesOf, type Looked } from "./looks";

const said = (type: string, parts: [number, string, string | null][]): ExpressionResult => ({
  type,
  wanted: "any",
  problems: [],
  completeFrom: 0,
  completions: [],
  value: null,
  valueError: null,
  parts: parts.map(([start, text, value]) => ({ start, text, value })),
});
const looked = (text: string, template: boolean, ...looks: ExpressionResult[]): Looked => ({
  text,
  pieces: piecesOf(text, template),
  looks,
});

describe("what was said of an expression", () => {
  const sum = looked(
    "a + bc",
    false,
    said("int", [
      [0, "a + bc", "5"],
      [0, "a", "2"],
      [4, "bc", "3"],
    ]),
  );

  test.each([
    [0, { from: 0, to: 1, value: "2" }],
    [3, { from: 0, to: 6, value: "5" }],
    [5, { from: 4, to: 6, value: "3" }],
  ])("at %d the smallest part is told", (offset, part) => {
    expect(partAt(sum, "a + bc", offset)).toEqual(part);
  });

  test.each(["a", "a + bcd", "", "b + ac"])(
    "nothing is told of %j, which it was not said of: its places would not be there",
    (text) => {
      for (let offset = 0; offset <= text.length; offset++) expect(partAt(sum, text, offset)).toBeNull();
    },
  );

  test("each expression of a text answers for itself", () => {
    const text = "${a} to ${b}";
    const both = looked(text, true, said("int", [[0, "a", "1"]]), said("text", [[0, "b", "2"]]));
    expect(partAt(both, text, 2)).toEqual({ from: 2, to: 3, value: "1" });
    expect(partAt(both, text, 10)).toEqual({ from: 10, to: 11, value: "2" });
    expect(partAt(both, text, 6)).toBeNull();
    expect([lookAt(both, 10)?.type, lookAt(both, 2)?.type, lookAt(both, 6)?.type]).toEqual(["text", "int", "int"]);
  });

  test.each([
    ["", false, 0],
    ["  ", false, 0],
    ["a", false, 1],
    ["no expression", true, 0],
    ["${}", true, 1],
  ] as const)("%j has expressions: %s, %d", (text, template, count) => {
    expect(piecesOf(text, template)).toHaveLength(count);
  });
});
