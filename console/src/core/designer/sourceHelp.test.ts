import { describe, expect, test } from "vitest";
import { YamlText } from "../document/tree";
import { choicesOf, formOf, spoken } from "./schema";
import { placeOf, schemaAt, type FileSchema } from "./sourceHelp";
import { expressionAt, expressionsIn } from "./templates";

// ¦ is where the caret stands.
const caret = (marked: string): [string, number] => [marked.replace("¦", ""), marked.indexOf("¦")];

describe("the place of a caret", () => {
  test.each<[string, (string | number)[], string | null]>([
    ["¦", [], null],
    ["cha¦", [], null],
    ["chain: mi¦", [], "chain"],
    ["steps:\n  ¦", ["steps"], null],
    ["steps:\n  load:\n    kind: wa¦", ["steps", "load"], "kind"],
    ["steps:\n  load:\n    # says\n\n    ¦", ["steps", "load"], null],
    [
      "steps:\n  load:\n    kind: wait\n    set:\n      for: 5s\n    retry:\n      limit: ¦",
      ["steps", "load", "retry"],
      "limit",
    ],
    ["steps:\n  load: { kind: wait }\nparams:\n  day:\n    type: tim¦", ["params", "day"], "type"],
    ["gates:\n  - from: a\n    to: b\n  - from: ¦", ["gates", 1], "from"],
    ["gates:\n  - from: a\n    to: b\n    ¦", ["gates", 0], null],
    ["gates:\n- from: a\n  to: ¦", ["gates", 0], "to"],
    [
      "steps:\n  d:\n    kind: decide\n    branches:\n      - name: x\n        when: 'true'\n      - name: y\n        otherwise: ¦",
      ["steps", "d", "branches", 1],
      "otherwise",
    ],
  ])("%j", (marked, path, key) => {
    expect(placeOf(...caret(marked))).toEqual({ path, key });
  });
});

const schema: FileSchema = {
  properties: {
    steps: { additionalProperties: { $ref: "#/$defs/step" } as FileSchema },
    gates: { items: { properties: { on: { anyOf: [{ enum: ["success", "failure"] }] } } } },
  },
  $defs: {
    step: {
      oneOf: [
        { properties: { kind: { const: "wait" }, for: { "x-form": "duration" } } },
        { properties: { kind: { const: "stop" }, message: { "x-form": "text" } }, description: "Stops it." },
      ],
    },
  },
};
const root = new YamlText("steps:\n  a: { kind: wait }\n  b: { kind: stop }\n  c: {}\ngates:\n  - { from: a, to: b }\n")
  .root;

test("the schema of a step is that of its kind", () => {
  expect(schemaAt(schema, root, ["steps", "a", "for"])).toEqual({ "x-form": "duration" });
  expect(schemaAt(schema, root, ["steps", "a", "message"])).toBeNull();
  expect(schemaAt(schema, root, ["steps", "b", "message"])).toEqual({ "x-form": "text" });
  expect(choicesOf(schemaAt(schema, root, ["steps", "b", "kind"]) ?? {})).toEqual(["wait", "stop"]);
  expect(schemaAt(schema, root, ["steps", "c"])?.oneOf).toHaveLength(2);
  expect(choicesOf(schemaAt(schema, root, ["gates", 0, "on"]) ?? {})).toEqual(["success", "failure"]);
  expect(schemaAt(schema, root, ["nothing", "here"])).toBeNull();
});

test.each([
  [{ "x-form": "int" }, "number"],
  [{ "x-form": "timestamp" }, "text"],
  [{ "x-form": "duration" }, "duration"],
  [{ type: "array", items: { "x-form": "text" } }, "texts"],
  [{ type: "array", items: { type: "object" } }, "list"],
  [{ type: "object", properties: {} }, "record"],
  [{ type: "object" }, "map"],
  [{}, "any"],
])("%j is edited as %s", (of, form) => {
  expect(formOf(of)).toBe(form);
});

test.each([
  ["rows_read", "Rows read"],
  ["whenBusy", "When busy"],
  ["url", "Url"],
])("%s is said %s", (name, words) => {
  expect(spoken(name)).toBe(words);
});
describe("expressions in a text", () => {
  test.each<[string, string[]]>([
    ["no", []],
    ["${a} and ${b.c}", ["a", "b.c"]],
    ["$${a} ${b}", ["b"]],
    ["${ {'x': 1}.x } ${'}'} ${\"\\\"}\"}", [" {'x': 1}.x ", "'}'", '"\\"}"']],
    ["${not ended", ["not ended"]],
  ])("%j", (text, found) => {
    const pieces = expressionsIn(text);
    expect(pieces.map((p) => p.text)).toEqual(found);
    for (const p of pieces) expect(text.slice(p.from, p.from + p.text.length)).toBe(p.text);
  });

  test("the one that a caret stands in", () => {
    expect(expressionAt("a ${b} c", 1)).toBeNull();
    expect(expressionAt("a ${b} c", 4)?.text).toBe("b");
    expect(expressionAt("a ${b} c", 5)?.text).toBe("b");
    expect(expressionAt("a ${b} c", 6)).toBeNull();
  });
});
