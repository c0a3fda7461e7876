import type { GateStatus, IterationStatus, RunDetail, StepStatus } from "../api/types";

/** Which iteration of each container instance is shown, by the container's path. */
export type Chosen = ReadonlyMap<string, number>;

/** The iteration to show when nobody has chosen: one that failed, else one that runs, else the last. */
export function iterationToShow(iterations: readonly IterationStatus[]): number {
  const found =
    iterations.find((i) => i.state === "failed") ?? iterations.find((i) => i.state === "running") ?? iterations.at(-1);
  return found?.index ?? 0;
}

/** What the drawing shows of a run: for every address the instance that is in view. */
export interface InView {
  step: (address: string) => StepStatus | undefined;
  gate: (scope: string, index: number) => GateStatus | undefined;
  /** The iterations of a container, and which is shown. */
  iterations: (address: string) => { all: IterationStatus[]; shown: number; path: string } | undefined;
}

/** Looks the instances up that the chosen iterations bring into view. */
export function inView(run: RunDetail, chosen: Chosen): InView {
  const steps = new Map(run.steps.map((s) => [s.path, s]));
  const gates = new Map(run.gates.map((g) => [`${g.scope}#${String(g.index)}`, g]));
  const byStep = new Map<string, IterationStatus[]>();
  for (const iteration of run.iterations)
    byStep.set(iteration.step, [...(byStep.get(iteration.step) ?? []), iteration]);

  const shownIn = (path: string) => {
    const all = byStep.get(path);
    return all ? (chosen.get(path) ?? iterationToShow(all)) : undefined;
  };
  // From an address to the path of the instance in view: outer containers decide which iteration inner ones lie in.
  const pathOf = (address: string) => {
    let path = "";
    for (const [i, part] of address.split("/").entries()) {
      if (i > 0) {
        const shown = shownIn(path);
        path += shown === undefined ? "/" : `[${String(shown)}]/`;
      }
      path += part;
    }
    return path;
  };
  const scopeOf = (address: string) => {
    if (address === "") return "";
    const path = pathOf(address);
    const shown = shownIn(path);
    return shown === undefined ? path : `${path}[${String(shown)}]`;
  };
  return {
    step: (address) => steps.get(pathOf(address)),
    gate: (scope, index) => gates.get(`${scopeOf(scope)}#${String(index)}`),
    iterations: (address) => {
      const path = pathOf(address);
      const all = byStep.get(path);
      return all ? { all: [...all].sort((a, b) => a.index - b.index), shown: shownIn(path) ?? 0, path } : undefined;
    },
  };
}
