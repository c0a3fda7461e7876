import { describe, expect, it } from "vitest";
import type { AttemptInfo, IterationStatus, RunDetail, RunPatch, ScopeGraph, StepStatus } from "../api/types";
import { between, brief, parametersLine, took } from "../format";
import { quickLayout } from "../graph/quick";
import { drawing } from "../graph/flow";
import { inView, iterationToShow } from "../graph/instances";
import { applyPatch } from "./runModel";
import { legSpans, placeOf, rowsOf } from "./runRows";
import { asState, worst } from "../states";
import { addressOf } from "../stepPath";

const step = (path: string, state = "succeeded", more: Partial<StepStatus> = {}): StepStatus => ({
  path,
  address: addressOf(path),
  state,
  attempt: 1,
  leg: 1,
  started: null,
  ended: null,
  due: null,
  message: null,
  absorbed: false,
  warned: false,
  progress: null,
  hold: null,
  lane: null,
  child: null,
  answered: null,
  hidden: 0,
  leftOver: false,
  ...more,
});
const iteration = (index: number, state = "succeeded", container = "depots"): IterationStatus => ({
  path: `${container}[${String(index)}]`,
  step: container,
  index,
  item: ["north", "south", "west"][index] ?? "",
  state,
  started: null,
  ended: null,
  message: null,
});
const attempt = (number: number, path: string, leg: number, from: number, to: number | null): AttemptInfo => ({
  number,
  step: path,
  leg,
  attempt: 1,
  started: new Date(from).toISOString(),
  ended: to === null ? null : new Date(to).toISOString(),
  result: to === null ? "running" : "succeeded",
  error: null,
  retryAt: null,
});
const node = (address: string, inner: ScopeGraph | null = null) => ({
  id: address.split("/").at(-1) ?? "",
  address,
  kind: "sql",
  title: `Title of ${address}`,
  notes: null,
  join: "all",
  ifFails: "fail",
  disabled: false,
  note: null,
  guarded: false,
  lane: null,
  place: null,
  inner,
});
const gate = (index: number, from: string, to: string) => ({ index, from, to, label: "", on: "success", when: null });
const graph: RunDetail["graph"] = {
  steps: [
    node("prepare"),
    node("depots", { steps: [node("depots/arrived"), node("depots/load")], gates: [gate(0, "arrived", "load")] }),
  ],
  gates: [gate(0, "prepare", "depots")],
  handlers: [],
};

const run = {
  id: 1,
  chain: "t",
  title: null,
  release: "r",
  state: "running",
  leg: 1,
  by: "ann",
  started: new Date(0).toISOString(),
  ended: null,
  error: null,
  seq: 5,
  params: {},
  vars: { n: 1 },
  profile: {},
  outputs: {},
  graph,
  steps: [
    step("prepare"),
    step("depots", "running"),
    step("depots[0]/arrived"),
    step("depots[0]/load"),
    step("depots[1]/arrived"),
    step("depots[1]/load", "failed"),
  ],
  iterations: [iteration(0), iteration(1, "failed")],
  gates: [
    { scope: "", index: 0, state: "open", inError: false },
    { scope: "depots[1]", index: 0, state: "open", inError: false },
  ],
  attempts: [
    attempt(1, "prepare", 1, 0, 100),
    attempt(2, "depots", 1, 100, 400),
    attempt(3, "depots", 2, 10_000, 10_600),
  ],
  resumes: [],
  handlers: [],
  warnings: [],
  failures: [],
  absorbed: 0,
  parameters: [],
} as unknown as RunDetail;

describe("a run is kept up to date", () => {
  const patch: RunPatch = {
    id: 1,
    seq: 6,
    state: "failed",
    leg: 1,
    ended: new Date(900).toISOString(),
    error: "broke",
    status: {
      pausedBy: null,
      pauseMessage: null,
      pausedSteps: [],
      late: true,
      lateAt: null,
      endangered: null,
      resumeAt: null,
      failedAt: null,
    },
    vars: null,
    outputs: null,
    steps: [step("depots", "failed"), step("depots[2]/arrived", "pending")],
    iterations: [iteration(2, "running")],
    gates: [],
    attempts: [attempt(4, "x", 2, 1, 2)],
    warnings: ["w"],
    failures: ["depots"],
    absorbed: 1,
  };

  it("takes changes in and leaves the rest as it is", () => {
    const after = applyPatch(run, patch);
    expect(after.steps.map((s) => `${s.path} ${s.state}`)).toEqual([
      "prepare succeeded",
      "depots failed",
      "depots[0]/arrived succeeded",
      "depots[0]/load succeeded",
      "depots[1]/arrived succeeded",
      "depots[1]/load failed",
      "depots[2]/arrived pending",
    ]);
    expect(after.steps[0]).toBe(run.steps[0]);
    expect(after.gates).toBe(run.gates);
    expect([after.state, after.error, after.iterations.length, after.attempts.length, after.vars]).toEqual([
      "failed",
      "broke",
      3,
      4,
      run.vars,
    ]);
  });

  it("passes over what it knows already", () => {
    expect(applyPatch({ ...run, seq: 6 }, patch).state).toBe("running");
  });
});

describe("the tree of steps", () => {
  it("shows iterations below their container, by index", () => {
    const rows = rowsOf({ ...run, iterations: [iteration(1, "failed"), iteration(0)] }, new Set());
    expect(rows.map((r) => `${"-".repeat(r.depth)}${r.name}`)).toEqual([
      "Title of prepare",
      "Title of depots",
      "-north",
      "--Title of depots/arrived",
      "--Title of depots/load",
      "-south",
      "--Title of depots/arrived",
      "--Title of depots/load",
    ]);
  });

  it("leaves out what is folded", () => {
    expect(rowsOf(run, new Set(["depots[0]"])).map((r) => r.key)).toEqual([
      "prepare",
      "depots",
      "depots[0]",
      "depots[1]",
      "depots[1]/arrived",
      "depots[1]/load",
    ]);
    expect(rowsOf(run, new Set(["depots"])).map((r) => r.key)).toEqual(["prepare", "depots"]);
  });

  it("puts the legs on one axis without the pause between them", () => {
    const spans = legSpans(run, 99_999);
    expect(spans).toEqual([
      { leg: 1, from: 0, to: 400 },
      { leg: 2, from: 10_000, to: 10_600 },
    ]);
    expect(placeOf(0, 1, spans)).toBe(0);
    expect(placeOf(400, 1, spans)).toBeCloseTo(0.4);
    expect(placeOf(10_000, 2, spans)).toBeCloseTo(0.4);
    expect(placeOf(10_600, 2, spans)).toBe(1);
    expect(placeOf(5_000, 1, spans)).toBeCloseTo(0.4);
  });
});

describe("what the drawing shows", () => {
  it("brings the failed iteration into view, and another one when asked", () => {
    expect(iterationToShow([iteration(0), iteration(1, "failed"), iteration(2)])).toBe(1);
    expect(iterationToShow([iteration(0), iteration(1, "running")])).toBe(1);
    expect(iterationToShow([])).toBe(0);
    expect(inView(run, new Map()).step("depots/load")?.state).toBe("failed");
    expect(inView(run, new Map([["depots", 0]])).step("depots/load")?.state).toBe("succeeded");
    expect(inView(run, new Map()).gate("depots", 0)?.state).toBe("open");
    expect(inView(run, new Map([["depots", 0]])).gate("depots", 0)).toBeUndefined();
    expect(
      inView(run, new Map())
        .iterations("depots")
        ?.all.map((i) => i.item),
    ).toEqual(["north", "south"]);
  });

  it("has a box for every step, containers first, and a link for every gate", () => {
    const { places } = quickLayout(graph, 60, null);
    const { boxes, links } = drawing(graph, places);
    expect(boxes.map((b) => [b.id, b.parent])).toEqual([
      ["prepare", null],
      ["depots", null],
      ["depots/arrived", "depots"],
      ["depots/load", "depots"],
    ]);
    expect(links.map((l) => [l.id, l.source, l.target])).toEqual([
      ["depots#0", "depots/arrived", "depots/load"],
      ["#0", "prepare", "depots"],
    ]);
  });

  it("keeps places that the file gives", () => {
    const placed = { ...graph, steps: [{ ...node("prepare"), place: [7, 8] }], gates: [] };
    expect(drawing(placed, new Map([["prepare", { x: 0, y: 0, width: 1, height: 1 }]])).boxes[0]).toMatchObject({
      x: 7,
      y: 8,
    });
  });
});

describe("words", () => {
  it.each([
    [0, "0 ms"],
    [999, "999 ms"],
    [1000, "1.0 s"],
    [59_940, "59.9 s"],
    [61_000, "1 min 01 s"],
    [7_500_000, "2 h 05 min"],
  ])("%i ms are %s", (ms, text) => {
    expect(took(ms)).toBe(text);
  });

  it("tells times that still go on by the clock", () => {
    expect(between(new Date(0).toISOString(), null, 1500)).toBe("1.5 s");
    expect(between(null, null, 0)).toBe("");
  });

  it("writes parameters as one would type them", () => {
    expect(parametersLine({ day: "2026-11-22T00:00:00Z", depots: ["north", "west"], max: 5, none: null })).toBe(
      "day=2026-11-22  depots=north, west  max=5  none=",
    );
  });

  it("cuts long values and knows states", () => {
    expect(brief({ a: "x".repeat(200) }).length).toBe(120);
    expect([asState("failed"), asState("nonsense"), worst(["succeeded", "failed", "running"]), worst([])]).toEqual([
      "failed",
      "pending",
      "running",
      "pending",
    ]);
  });
});
