import { parse } from "yaml";
import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { addStep, connect, copy, gatesLost, moveInto, paste, remove, takenIds, whyNoGate } from "./operations";

const file = `chain: t   # name
steps:
  # looks first
  look:
    kind: command
    # what it runs
    set: { shell: "echo 5" }   # five
  each:
    kind: each
    over: params.xs
    steps:
      inner: { kind: wait }
gates:
  - { from: look, to: each }   # then
outputs: { n: steps.look.value }
`;
const design = new Design(new YamlText(file));
const of = (text: string) => new Design(new YamlText(text));

test("a step is copied with its comments and pasted as it was", () => {
  const clip = copy(design, ["look", "each"]);
  expect(clip).toBe(`steps:
  look:
    kind: command
    # what it runs
    set: { shell: "echo 5" }   # five
  each:
    kind: each
    over: params.xs
    steps:
      inner: { kind: wait }
gates:
  - { from: look, to: each }
`);
  const empty = of("chain: u\nsteps: {}\n");
  const pasted = paste(empty, clip, "").text;
  expect(pasted).toBe(`chain: u\n${clip}`);
  expect(takenIds(of(pasted), clip)).toEqual([
    ["look", "look_2"],
    ["each", "each_2"],
    ["each/inner", "inner_2"],
  ]);
});

test("a step that moves into a container is there as it was, and its gates are gone", () => {
  const moved = of(moveInto(design, ["look"], "each").text);
  expect([...moved.steps.keys()]).toEqual(["each", "each/inner", "each/look"]);
  expect(moved.file.text).toContain(
    '      look:\n        kind: command\n        # what it runs\n        set: { shell: "echo 5" }   # five\n',
  );
  expect(moved.root.gates).toEqual([]);
});

test("adding, connecting and removing leave the rest of the file as it is", () => {
  const added = addStep(design, "each", "load", "inner", null);
  expect(added.id).toBe("each/load");
  expect(added.text).toBe(
    file.replace(
      "      inner: { kind: wait }\n",
      "      inner: { kind: wait }\n      load:\n        kind: load\n    gates:\n      - { from: inner, to: load }\n",
    ),
  );
  expect(of(remove(of(added.text), { steps: ["each/load"], gate: null }).text).file.text).toBe(file);
  expect(parse(connect(of(added.text), "look", "each").text)).toEqual(parse(added.text));
});

test("what is moved to another container loses its gates to steps that stay", () => {
  const joined = of(connect(design, "look", "each").text);
  expect(gatesLost(joined, ["look"])).toEqual(["look → each"]);
  expect(gatesLost(joined, ["look", "each"])).toEqual([]);
  expect(gatesLost(joined, ["each/inner"])).toEqual([]);
});

test("gates that can't be are told why", () => {
  expect(whyNoGate(design, "look", "look")).toContain("wait for itself");
  expect(whyNoGate(design, "each", "look")).toContain("close a circle");
  expect(whyNoGate(design, "look", "each/inner")).toContain("same container");
  expect(whyNoGate(design, "look", "each")).toBeNull();
});
