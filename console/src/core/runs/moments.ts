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

/** What was decided, in a line: what became of the run, else the first of it, and how much more. */
export function wordsOf(moment: MomentInfo): string {
  const told = moment.lines.find((l) => l.what === "run") ?? moment.lines[0];
  if (told === undefined) return "nothing that is told";
  // A line of the run may name it already.
  const text = told.path === "" ? told.text.replace(/^the run /, "") : told.text;
  const more = moment.lines.length - 1;
  return `${told.path === "" ? "the run" : told.path} ${text}${more === 0 ? "" : `, and ${String(more)} more`}`;
}
