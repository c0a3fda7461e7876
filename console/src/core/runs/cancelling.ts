import type { RunDetail } from "../api/types";
import { kindOf } from "../graph/bands";
import { addressOf, iterationsOf } from "../stepPath";

/**
 * What of a step can be cancelled: it alone, or an iteration that it lies in; the nearest first. Rounds can't be: that
 * is done with their repeat.
 */
export function cancellable(run: RunDetail, path: string): { value: string; label: string }[] {
  const around = iterationsOf(path)
    .filter(({ owner }) => kindOf(run.graph, addressOf(owner)) === "each")
    .map(({ owner, index }) => run.iterations.find((i) => i.step === owner && i.index === index))
    .filter((i) => i?.state === "running")
    .map((i) => ({ value: i?.path ?? "", label: `the whole iteration ${i?.path ?? ""} (“${i?.item ?? ""}”)` }));
  return [{ value: path, label: `only ${path}` }, ...around.reverse()];
}
