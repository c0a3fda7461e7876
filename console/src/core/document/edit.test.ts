import { parse } from "yaml";
import { describe, expect, test } from "vitest";
import { applyChanges, moveItem, removeAt, setAt } from "./edit";
import { plain, YamlText, type Path } from "./tree";

const file = `# Head of the file
chain: intake   # its name
title: Intake
params:
  day:     { type: timestamp }   # asked for

steps:
  # looks first
  look:
    kind: file
    set: { action: look, path: "in/*.csv" }

  load:
    kind: load   # the work
    set:
      from: { csv: "\${steps.look.newest}" }
      batch: 500
    expect:
      - { when: result.rows_read == 0, verdict: fail }
      # the other one
      - { when: result.rows_rejected > 5, verdict: warn }
  bare: { kind: wait }

gates:
  - { from: look, to: load }
  - from: load
    to: bare
    on: always
`;

const document = new YamlText(file);
const set = (path: Path, value: unknown) => applyChanges(file, setAt(document, path, value));

describe("reading", () => {
  test("gives what another reader gives", () => {
    expect(plain(document.root)).toEqual(parse(file));
  });
});

describe("editing", () => {
  test.each<[string, Path, unknown, string, string]>([
    ["a scalar in place", ["title"], "Intake of a day", "title: Intake\n", "title: Intake of a day\n"],
    ["a scalar before a comment", ["chain"], "intake-2", "chain: intake   # its name", "chain: intake-2   # its name"],
    ["in a flow mapping", ["steps", "look", "set", "action"], "copy", "{ action: look,", "{ action: copy,"],
    [
      "a new key of a flow mapping",
      ["steps", "bare", "title"],
      "Wait",
      "bare: { kind: wait }",
      "bare: { kind: wait, title: Wait }",
    ],
    [
      "a new key in its order",
      ["steps", "load", "title"],
      "Load it",
      "    kind: load   # the work\n",
      "    kind: load   # the work\n    title: Load it\n",
    ],
    [
      "a new key at the end",
      ["outputs"],
      { rows: "steps.load.rows_written" },
      "    on: always\n",
      "    on: always\noutputs: { rows: steps.load.rows_written }\n",
    ],
    [
      "a nested mapping that is not there",
      ["steps", "load", "retry", "limit"],
      3,
      "      batch: 500\n",
      "      batch: 500\n    retry: { limit: 3 }\n",
    ],
    [
      "a new item",
      ["gates", 2],
      { from: "look", to: "bare" },
      "    on: always\n",
      "    on: always\n  - { from: look, to: bare }\n",
    ],
    [
      "a key of an item",
      ["gates", 0, "on"],
      "failure",
      "{ from: look, to: load }",
      "{ from: look, to: load, on: failure }",
    ],
    ["text that must be quoted", ["title"], "a: b", "title: Intake\n", 'title: "a: b"\n'],
    ["text over lines", ["notes"], "one\ntwo\n", "title: Intake\n", "title: Intake\nnotes: |\n  one\n  two\n"],
  ])("%s", (_, path, value, before, after) => {
    expect(file).toContain(before);
    expect(set(path, value)).toBe(file.replace(before, after));
  });

  test("taking away leaves the rest, and takes the comment above along", () => {
    expect(applyChanges(file, removeAt(document, ["steps", "look"]))).toBe(
      file.replace('  # looks first\n  look:\n    kind: file\n    set: { action: look, path: "in/*.csv" }\n', ""),
    );
    expect(applyChanges(file, removeAt(document, ["gates", 1]))).toBe(
      file.replace("  - from: load\n    to: bare\n    on: always\n", ""),
    );
    expect(applyChanges(file, removeAt(document, ["steps", "look", "set", "path"]))).toBe(
      file.replace(', path: "in/*.csv"', ""),
    );
    expect(applyChanges(file, removeAt(document, ["steps", "look", "set", "action"]))).toBe(
      file.replace("action: look, ", ""),
    );
  });

  test("what is left empty goes too, but steps stay", () => {
    const one = new YamlText("chain: c\nsteps:\n  a:\n    kind: wait\n    set: { for: 1s }\ngates: []\n");
    expect(applyChanges(one.text, removeAt(one, ["steps", "a", "set", "for"]))).toBe(
      "chain: c\nsteps:\n  a:\n    kind: wait\ngates: []\n",
    );
    expect(applyChanges(one.text, removeAt(one, ["steps", "a"]))).toBe("chain: c\nsteps: {}\ngates: []\n");
  });

  test("items change places with their comments", () => {
    expect(applyChanges(file, moveItem(document, ["steps", "load", "expect"], 1, 0))).toContain(
      "    expect:\n      # the other one\n      - { when: result.rows_rejected > 5, verdict: warn }\n      - { when: result.rows_read == 0, verdict: fail }\n",
    );
  });
});

/** Whatever is set at random: the file stays YAML, holds what was set, and keeps every comment. */
test("random edits keep the rest of the file", () => {
  let seed = 7;
  const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n;
  const values = [
    "x",
    5,
    true,
    "a: b # c",
    "",
    "line\nline",
    ["a", "b"],
    { a: 1, b: "${c}" },
    [{ when: "a == 'b'", verdict: "fail" }],
    "123",
    "null",
    "- x",
    'it\'s "so"',
    0.5,
  ];
  const paths: Path[] = [
    ["title"],
    ["notes"],
    ["steps", "load", "set", "batch"],
    ["steps", "load", "retry", "wait"],
    ["steps", "bare", "set", "for"],
    ["steps", "new", "kind"],
    ["gates", 0, "when"],
    ["vars", "n", "initial"],
    ["params", "day", "label"],
    ["steps", "load", "expect", 0, "message"],
    ["steps", "look", "join"],
  ];
  for (let round = 0; round < 50; round++) {
    let doc = document;
    const wanted = new Map<string, unknown>();
    for (let i = 0; i < 6; i++) {
      const path = paths[random(paths.length)] as Path;
      const value = random(5) === 0 ? undefined : values[random(values.length)];
      doc = new YamlText(applyChanges(doc.text, setAt(doc, path, value)), doc);
      const read = parse(doc.text) as unknown;
      expect(plain(doc.root)).toEqual(read);
      wanted.set(JSON.stringify(path), value);
      const got = path.reduce<unknown>((o, k) => (o as Record<string, unknown> | undefined)?.[k as string], read);
      expect(got).toEqual(value);
    }
    for (const comment of ["# Head of the file", "# its name", "# asked for", "# the work"])
      expect(doc.text).toContain(comment);
  }
});
