import type { RunSummary } from "../core/api/types";

/** A run as lists have it, for tests: of the nightly chain, going on. */
export const aRun = (id: number, more: Partial<RunSummary> = {}): RunSummary => ({
  id,
  chain: "milk-intake",
  state: "running",
  leg: 1,
  by: "noor",
  started: "2026-11-22T02:30:00Z",
  ended: null,
  params: {},
  error: null,
  late: false,
  resumeAt: null,
  parent: null,
  actor: { kind: "person", id: "noor", name: "noor" },
  origin: null,
  trigger: null,
  ...more,
});
