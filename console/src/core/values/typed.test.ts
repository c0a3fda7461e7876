import { describe, expect, test } from "vitest";
import { itemType, readAll, readTyped, refusedField, textOf } from "./typed";

describe("what was typed is read after its type", () => {
  test.each<[string, string, unknown]>([
    ["string", "", ""],
    ["string", " a, b ", " a, b "],
    ["int", "-17", -17],
    ["int", "9007199254740993", "9007199254740993"],
    ["double", "2.5", 2.5],
    ["decimal", "19.90", "19.90"],
    ["bool", "true", true],
    ["duration", "1h30m", "1h30m"],
    ["timestamp", "2026-11-22", "2026-11-22"],
    ["timestamp", "2026-11-22 04:30", "2026-11-22T04:30:00Z"],
    ["timestamp", "2026-11-22T04:30:05+02:00", "2026-11-22T04:30:05+02:00"],
    ["timestamp", "2024-02-29", "2024-02-29"],
    ["list<string>", '["a, b", "c"]', ["a, b", "c"]],
    ["list<string>", "[1]", ["1"]],
    ["list<int>", '["1", 2]', [1, 2]],
    ["list", '["1", {"a": 1}]', [1, { a: 1 }]],
    ["map", '{"a": 1}', { a: 1 }],
    ["any", "word", "word"],
    ["any", "[1]", [1]],
  ])("%s %s", (type, text, value) => expect(readTyped(type, text)).toEqual({ value }));

  test.each<[string, string, string]>([
    ["int", "abc", "whole number"],
    ["int", "1.5", "whole number"],
    ["int", "9223372036854775808", "too big"],
    ["double", "", "a number"],
    ["double", "1e999", "a number"],
    ["decimal", "1e3", "a number"],
    ["bool", "yes", "true or false"],
    ["duration", "soon", "length of time"],
    ["timestamp", "2026-02-30", "no day 2026-02-30"],
    ["timestamp", "2026-11-22 25:00", "a day or a time"],
    ["timestamp", "tomorrow", "a day or a time"],
    ["list<int>", '["1", "x"]', "Item 2: It is a whole number"],
    ["list<string>", "a, b", "a list"],
    ["map", "[1]", "a map"],
  ])("%s %s is told", (type, text, wrong) =>
    expect((readTyped(type, text) as { wrong: string }).wrong).toContain(wrong),
  );
});

test("a value is shown as one would type it, and read as what it was", () => {
  for (const [type, value, text] of [
    ["timestamp", "2026-11-22T00:00:00Z", "2026-11-22"],
    ["timestamp", "2026-11-22T04:30:00Z", "2026-11-22 04:30"],
    ["list<string>", ["a, b"], '["a, b"]'],
    ["string", "[x]", "[x]"],
    ["int", 3, "3"],
  ] as const) {
    expect(textOf(type, value)).toBe(text);
    expect("value" in readTyped(type, text)).toBe(true);
  }
  expect(textOf("int", null)).toBeUndefined();
});

test("a form says which fields lack a value or have a wrong one", () => {
  const fields = [
    { name: "n", type: "int", required: true },
    { name: "s", type: "string", required: true },
    { name: "on", type: "bool", required: true },
    { name: "d", type: "duration", required: false },
  ];
  expect(readAll(fields, { n: "x" })).toEqual({
    values: { on: false },
    wrong: { n: "It is a whole number.", s: "It needs a value." },
  });
  expect(readAll(fields, { n: "1", s: "", on: "true" })).toEqual({ values: { n: 1, s: "", on: true }, wrong: {} });
});

test("what the service refused stands at its field", () => {
  const message = "there is no parameter “count”; the parameter “amount” (int) is missing";
  expect(refusedField(message, "amount")).toBe("The parameter “amount” (int) is missing");
  expect(refusedField(message, "other")).toBeUndefined();
  expect(refusedField(undefined, "amount")).toBeUndefined();
});

test("types of items", () => {
  expect([itemType("list"), itemType("list<list<int>>"), itemType("map"), itemType("string")]).toEqual([
    "any",
    "list<int>",
    null,
    null,
  ]);
});
