import type { IterationPage, RunDetail, RunPatch } from "../api/types";

function merge<T>(old: readonly T[], changed: readonly T[], key: (item: T) => string | number): T[] {
  if (changed.length === 0) return old as T[];
  const news = new Map(changed.map((item) => [key(item), item]));
  const merged = old.map((item) => {
    const found = news.get(key(item));
    if (found === undefined) return item;
    news.delete(key(item));
    return found;
  });
  return news.size === 0 ? merged : [...merged, ...news.values()];
}

/** The run after a change; parts that did not change stay the same objects. */
export function applyPatch(run: RunDetail, patch: RunPatch): RunDetail {
  if (patch.seq <= run.seq) return run;
  return {
    ...run,
    seq: patch.seq,
    state: patch.state,
    leg: patch.leg,
    ended: patch.ended,
    error: patch.error,
    status: patch.status,
    vars: patch.vars ?? run.vars,
    outputs: patch.outputs ?? run.outputs,
    warnings: patch.warnings,
    failures: patch.failures,
    absorbed: patch.absorbed,
    steps: merge(run.steps, patch.steps, (s) => s.path),
    iterations: merge(run.iterations, patch.iterations, (i) => i.path),
    gates: merge(run.gates, patch.gates, (g) => `${g.scope}#${String(g.index)}`),
    attempts: merge(run.attempts, patch.attempts, (a) => a.number),
  };
}

/** The run with iterations that it left out, for there were too many. */
export const withIterations = (run: RunDetail, pages: readonly IterationPage[]): RunDetail =>
  pages.reduce(
    (whole, page) => ({
      ...whole,
      // What the run has itself is newer.
      steps: merge(page.steps, whole.steps, (s) => s.path),
      iterations: merge(page.iterations, whole.iterations, (i) => i.path),
      gates: merge(page.gates, whole.gates, (g) => `${g.scope}#${String(g.index)}`),
    }),
    run,
  );

/** Whether a step holds others, or a child run: then it can continue inside. */
export const holdsOthers = (run: RunDetail, path: string): boolean =>
  run.steps.some(
    (s) =>
      (s.path === path && s.child !== null && s.child !== undefined) ||
      s.path.startsWith(`${path}/`) ||
      s.path.startsWith(`${path}[`),
  );
