import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { wrap } from "./operations";

const design = (text: string) => new Design(new YamlText(text));

test("steps go into a container; what led to them leads to it, what left them leaves it", () => {
  const text = `chain: t
steps:
  a: { kind: wait }
  # the one in the middle
  b: { kind: sql }
  c: { kind: file }
  d: { kind: notify }
gates:
  - { from: a, to: b, on: failure }
  - { from: b, to: c }
  - { from: c, to: d, when: vars.n > 1 }
  - { from: a, to: d }
`;
  const wrapped = design(wrap(design(text), ["b", "c"], "group").text);
  expect(wrapped.root.steps.map((s) => s.id)).toEqual(["a", "d", "group"]);
  expect(wrapped.scopes.get("group")?.steps.map((s) => s.id)).toEqual(["b", "c"]);
  expect(wrapped.scopes.get("group")?.gates.map((g) => `${g.from} ${g.to}`)).toEqual(["b c"]);
  expect(wrapped.root.gates.map((g) => `${g.from} ${g.to} ${g.label}`)).toEqual([
    "a group on failure",
    "group d vars.n > 1",
    "a d ",
  ]);
});

test("two gates that come to say the same become one; steps of two containers stay where they are", () => {
  const text =
    "chain: t\nsteps:\n  a: { kind: wait }\n  b: { kind: wait }\n  c: { kind: wait }\ngates:\n  - { from: a, to: b }\n  - { from: a, to: c }\n";
  expect(design(wrap(design(text), ["b", "c"], "each").text).root.gates.map((g) => `${g.from} ${g.to}`)).toEqual([
    "a each",
  ]);
  const other = "chain: t\nsteps:\n  g:\n    kind: group\n    steps:\n      a: { kind: wait }\n  b: { kind: wait }\n";
  expect(wrap(design(other), ["g/a", "b"], "group").text).toBe(other);
});
