import { expect, test } from "vitest";
import type { LegInfo, StepHistoryInfo } from "../api/types";
import { findings } from "./findings";

const step = (state: string, span: number, more: Partial<StepHistoryInfo> = {}): StepHistoryInfo => ({
  state,
  count: 1,
  failed: state === "failed" ? 1 : 0,
  attempts: 1,
  begin: 0,
  span,
  work: span,
  held: 0,
  queued: 0,
  rested: 0,
  read: null,
  written: null,
  rejected: null,
  ...more,
});

const leg = (run: number, steps: Record<string, StepHistoryInfo>, number = 1): LegInfo => {
  const failed = Object.values(steps).some((s) => s.state === "failed");
  const start = Date.parse("2026-11-01T02:30:00Z") + run * 86_400_000;
  const span = Object.values(steps).reduce((sum, s) => sum + Number(s.span), 0);
  return {
    run,
    leg: 1,
    number,
    state: failed ? "failed" : "succeeded",
    started: new Date(start).toISOString(),
    ended: new Date(start + span).toISOString(),
    late: false,
    source: "run",
    steps,
  };
};

const runs = (count: number, of: (run: number) => LegInfo) => Array.from({ length: count }, (_, i) => of(count - i));

test("of few runs, and of runs as ever, nothing is told", () => {
  const same = (run: number) => leg(run, { load: step("succeeded", 1000 + (run % 3)) });
  expect(findings({ addresses: ["load"], legs: runs(9, same) })).toEqual([]);
  expect(findings({ addresses: ["load"], legs: runs(40, same) })).toEqual([]);
});

test("what got slower is told with the run and release it began with", () => {
  const legs = runs(40, (run) =>
    leg(run, { load: step("succeeded", run > 33 ? 4000 : 1000), tell: step("succeeded", 20) }, run > 33 ? 2 : 1),
  );
  const found = findings({ addresses: ["load", "tell"], legs });
  expect(found.map((f) => [f.address, f.what, f.run])).toEqual([
    ["", "slower", 34],
    ["load", "slower", 34],
  ]);
  expect(found[1]?.text).toBe("takes 4.0 s, it took 1.0 s; since run 34, release 2");
});

test("what began to fail is told of the step inside, and rows that are rejected are", () => {
  const legs = runs(30, (run) =>
    leg(run, {
      depots: step(run === 30 ? "failed" : "succeeded", 900),
      "depots/load": step(run === 30 ? "failed" : "succeeded", 300, { rejected: run === 30 ? 74 : 11 }),
    }),
  );
  const found = findings({ addresses: ["depots", "depots/load"], legs });
  expect(found.map((f) => [f.address, f.what])).toEqual([
    ["depots/load", "fails"],
    ["depots/load", "rejects"],
  ]);
  expect(found[1]?.text).toBe("rejected 74 rows in the latest run, 11 were usual");
});
