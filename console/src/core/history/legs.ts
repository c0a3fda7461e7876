import type { LegInfo, StepHistoryInfo } from "../api/types";

/** How long a leg took, in milliseconds. */
export const lengthOf = (leg: LegInfo) => Date.parse(leg.ended) - Date.parse(leg.started);

export const stepOf = (leg: LegInfo, address: string): StepHistoryInfo | undefined => leg.steps[address];

/**
 * How long a leg, or a step of it, took when it succeeded, in milliseconds; null when it did not, or did not run.
 * @param address of the step; undefined for the leg as a whole
 */
export function goodLength(leg: LegInfo, address: string | undefined): number | null {
  if (address === undefined) return leg.state === "succeeded" ? lengthOf(leg) : null;
  const step = stepOf(leg, address);
  return step && step.count > 0 && step.state === "succeeded" ? Number(step.span) : null;
}
