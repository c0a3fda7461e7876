import type { MomentInfo } from "../api/types";

/** The place of the decision that a number means among those that are listed: the last one that is not behind it. */
export function indexOf(moments: readonly MomentInfo[], seq: number): number {
  let [low, high] = [0, moments.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((moments[middle]?.seq ?? 0) <= seq) low = middle + 1;
    else high = middle;
  }
  return Math.max(0, low - 1);
}

/** What was decided, in a line: the first of it, and how much more. */
export function wordsOf(moment: MomentInfo): string {
  const [first, ...more] = moment.lines;
  if (first === undefined) return "nothing that is told";
  const path = first.path === "" ? "the run" : first.path;
  return `${path} ${first.text}${more.length === 0 ? "" : `, and ${String(more.length)} more`}`;
}
