import { handlerRuns, isBand } from "./bands";
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
  /** How a handler fared, at the time that is in view; nothing for one that has not run. */
  band: (address: string) => string | undefined;
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

  // Each time that a handler ran is told like an iteration of its band.
  for (const [band, runs] of handlerRuns(run))
    byStep.set(
      band,
      runs.map(({ number, state }) => ({
        path: `${band}[${String(number)}]`,
        step: band,
        index: number,
        item: String(number),
        state,
        started: null,
        ended: null,
        message: null,
      })),
    );

  const shownIn = (path: string) => {
    const all = byStep.get(path);
    if (!all) return undefined;
    return chosen.get(path) ?? (isBand(path) ? (all.at(-1)?.index ?? 0) : iterationToShow(all));
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
    step: (address) => (isBand(address) ? undefined : steps.get(pathOf(address))),
    band: (address) => byStep.get(address)?.find((i) => i.index === shownIn(address))?.state,
    gate: (scope, index) => gates.get(`${scopeOf(scope)}#${String(index)}`),
    iterations: (address) => {
      const path = pathOf(address);
      const all = byStep.get(path);
      return all ? { all: [...all].sort((a, b) => a.index - b.index), shown: shownIn(path) ?? 0, path } : undefined;
    },
  };
}

/**
 * The path of the step that an address bar means: itself, or of the instances of an address of the chain the one that
 * failed, else the first. Null for none.
 */
export function stepMeant(steps: readonly StepStatus[], wanted: string): string | null {
  if (steps.some((s) => s.path === wanted)) return wanted;
  const instances = steps.filter((s) => s.address === wanted);
  return (instances.find((s) => s.state === "failed") ?? instances[0])?.path ?? null;
}
