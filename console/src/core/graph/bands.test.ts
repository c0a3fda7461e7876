import { expect, test } from "vitest";
import type { RunDetail, StepStatus } from "../api/types";
import { absolutePlaces, boxesOf, walkBands, wholeOf, withFolded } from "../designer/arrange";
import { addHandler, addStep, copy, moveInto, paste, remove } from "../designer/operations";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { handlerRuns, partsOf } from "./bands";
import { quickLayout } from "./quick";

const design = (text: string) => new Design(new YamlText(text));
const chain = `chain: t
steps:
  a: { kind: wait }
handlers:
  end:
    steps:
      tidy: { kind: command }
  failure:
    steps:
      mail: { kind: notify }
      call: { kind: http }
    gates:
      - { from: mail, to: call }
`;

const boxes = (d: Design, folded: string[] = []) => {
  const graph = withFolded(wholeOf(d), new Set(folded));
  const places = new Map(partsOf(graph).flatMap((p) => [...quickLayout(p, 48, null).places]));
  return boxesOf(graph, { places, routes: new Map() }).boxes;
};

test("handlers stand below the flow, one under the other, in their own order", () => {
  const all = boxes(design(chain));
  expect(all.filter((b) => b.parent === null).map((b) => b.id)).toEqual(["a", "@failure", "@end"]);
  const at = absolutePlaces(all);
  const place = (id: string) => ({
    width: NaN,
    height: NaN,
    ...all.find((b) => b.id === id),
    ...(at.get(id) ?? { x: NaN, y: NaN }),
  });
  const [a, failure, end, mail] = [place("a"), place("@failure"), place("@end"), place("@failure/mail")];
  expect(failure.y).toBeGreaterThan(a.y + a.height);
  expect(end.y).toBeGreaterThan(failure.y + failure.height);
  expect(end.width).toBe(failure.width);
  expect(mail.y).toBeGreaterThan(failure.y);
});

test("a folded handler is a line that says how many steps it has", () => {
  const all = boxes(design(chain), ["@failure"]);
  const band = all.find((b) => b.id === "@failure");
  expect(band?.step.note).toBe("2 inside");
  expect(all.some((b) => b.id.startsWith("@failure/"))).toBe(false);
  expect(band?.height).toBeLessThan(60);
});

test("arrow keys lead from the flow to a handler and back, to itself where it has no steps", () => {
  const all = boxes(design(chain));
  expect(walkBands(all, "a", "down")).toEqual({ step: "@failure/mail" });
  expect(walkBands(all, "@failure/call", "down")).toEqual({ step: "@end/tidy" });
  expect(walkBands(all, "@failure/call", "up")).toEqual({ step: "a" });
  expect(walkBands(all, "@end/tidy", "down")).toBeNull();
  expect(walkBands(all, "a", "left")).toBeNull();
  expect(
    walkBands(boxes(design(addHandler(design("chain: t\nsteps:\n  a: { kind: wait }\n"), "late").text)), "a", "down"),
  ).toEqual({ band: "@late" });
});

test("a handler is added, takes steps by every way, and goes with all that is in it", () => {
  const added = addHandler(design("chain: t\nsteps:\n  a: { kind: wait }\n"), "failure");
  expect(added.select?.band).toBe("@failure");
  const again = addHandler(design(added.text), "failure");
  expect(again.text).toBe(added.text);
  const filled = addStep(design(added.text), "@failure", "notify", null, null);
  expect(filled.id).toBe("@failure/notify");
  const more = addStep(design(filled.text), "@failure", "http", "notify", null);
  expect(more.text).toContain("gates:\n      - { from: notify, to: http }");
  const moved = moveInto(design(more.text), ["a"], "@failure");
  expect(design(moved.text).handlers[0]?.steps.map((s) => s.id)).toEqual(["notify", "http", "a"]);
  const pasted = paste(design(more.text), copy(design("chain: x\nsteps:\n  b: { kind: sql }\n"), ["b"]), "@failure");
  expect(design(pasted.text).steps.get("@failure/b")?.kind).toBe("sql");
  expect(remove(design(more.text), { steps: [], gate: null, band: "@failure" }).text).toBe(
    "chain: t\nsteps:\n  a: { kind: wait }\n",
  );
});

test("each time that a handler ran is told, with what tells most about its steps", () => {
  const step = (path: string, state: string) => ({ path, state }) as StepStatus;
  const runs = handlerRuns({
    steps: [
      step("a", "failed"),
      step("@pause[2]/tell", "running"),
      step("@pause[1]/tell", "succeeded"),
      step("@pause[1]/group", "failed"),
      step("@pause[1]/group/x", "running"),
    ],
  } as RunDetail);
  expect(runs.get("@pause")).toEqual([
    { number: 1, state: "failed" },
    { number: 2, state: "running" },
  ]);
});

test("a step goes into a container that is written between braces", () => {
  const d = design("chain: t\nsteps:\n  g: { kind: group, steps: {} }\n");
  const text = addStep(d, "g", "repeat", null, null).text;
  expect(design(text).steps.get("g/repeat")?.kind).toBe("repeat");
  expect(design(addStep(design(text), "g/repeat", "wait", null, null).text).steps.has("g/repeat/wait")).toBe(true);
});
