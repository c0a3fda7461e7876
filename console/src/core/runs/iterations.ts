import type { IterationStatus, RunDetail } from "../api/types";
import { asState, type State } from "../states";

/**
 * The iterations to offer where there is no room for all: the one in view, then failed ones, then those that run, then
 * the first; in their order.
 */
export function iterationsToOffer(all: readonly IterationStatus[], shown: number, most: number): IterationStatus[] {
  if (all.length <= most) return [...all];
  const rank = (i: IterationStatus) =>
    i.index === shown ? 0 : i.state === "failed" ? 1 : i.state === "running" || i.state === "paused" ? 2 : 3;
  return [...all]
    .sort((a, b) => rank(a) - rank(b) || a.index - b.index)
    .slice(0, most)
    .sort((a, b) => a.index - b.index);
}

/** How many iterations there are of each state, what went wrong first; those that the page lacks are not counted. */
export function countStates(all: readonly IterationStatus[]): { state: State; count: number }[] {
  const counts = new Map<State, number>();
  for (const { state } of all) counts.set(asState(state), (counts.get(asState(state)) ?? 0) + 1);
  const rank = (state: State) => (state === "failed" ? 0 : state === "succeeded" ? 2 : 1);
  return [...counts].map(([state, count]) => ({ state, count })).sort((a, b) => rank(a.state) - rank(b.state));
}

/** Failures that did not count against the run: iterations that a loop tolerated, steps whose failure is absorbed. */
export function toleratedFailures(run: RunDetail): { path: string; what: string }[] {
  const succeeded = new Set(run.steps.filter((s) => s.state === "succeeded").map((s) => s.path));
  return [
    ...run.iterations
      .filter((i) => i.state === "failed" && succeeded.has(i.step))
      .map((i) => ({ path: i.path, what: i.item })),
    ...run.steps.filter((s) => s.absorbed).map((s) => ({ path: s.path, what: s.message ?? "absorbed" })),
  ];
}

/** The step that failed in an iteration, the path itself for a step. */
export const failedInside = (run: RunDetail, path: string): string =>
  run.steps.find((s) => s.state === "failed" && s.path.startsWith(`${path}/`))?.path ?? path;
