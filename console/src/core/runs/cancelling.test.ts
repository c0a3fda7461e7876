import { describe, expect, it } from "vitest";
import type { IterationStatus, RunDetail, ScopeGraph, StepNode } from "../api/types";
import { cancellable } from "./cancelling";

const node = (address: string, kind: string, steps: StepNode[] = []): StepNode =>
  ({ id: address, address, kind, inner: steps.length === 0 ? null : ({ steps, gates: [] } as ScopeGraph) }) as StepNode;

const iteration = (step: string, index: number, state: string): IterationStatus =>
  ({ path: `${step}[${String(index)}]`, step, index, item: "west", state }) as IterationStatus;

const run = {
  graph: {
    steps: [node("depots", "each", [node("depots/poll", "repeat", [node("depots/poll/ask", "http")])])],
    gates: [],
    handlers: [],
  },
  iterations: [
    iteration("depots", 2, "running"),
    iteration("depots", 1, "succeeded"),
    iteration("depots[2]/poll", 3, "running"),
  ],
} as unknown as RunDetail;

const values = (path: string) => cancellable(run, path).map((c) => c.value);

describe("what can be cancelled", () => {
  it("is a step, and the iterations at work that it lies in, but no rounds", () => {
    expect(values("depots[2]/poll[3]/ask")).toEqual(["depots[2]/poll[3]/ask", "depots[2]"]);
    expect(values("depots[2]/poll")).toEqual(["depots[2]/poll", "depots[2]"]);
    expect(values("depots")).toEqual(["depots"]);
  });

  it("leaves out iterations that have settled", () => expect(values("depots[1]/poll")).toEqual(["depots[1]/poll"]));
});
