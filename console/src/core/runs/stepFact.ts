import type { StepStatus } from "../api/types";
import { between } from "../format";
import { asState, marks } from "../states";

/** What matters most about a step, in a line: how it fares in a run, or what it does. */
export interface StepFact {
  /** The mark of its state; null outside of a run. */
  mark: string | null;
  text: string;
}

/**
 * The fact about a step in a run; what it waits for, why it failed, how long it took.
 * @param rehearsed whether it was only played: then it took no time
 */
export function factInRun(status: StepStatus, rehearsed = false): StepFact {
  const played = rehearsed && status.state === "succeeded";
  return { mark: marks[asState(status.state)], text: played ? status.state : sentence(status) };
}

function sentence(status: StepStatus): string {
  const { state, message, hold, lane, progress } = status;
  switch (state) {
    case "succeeded":
      return [between(status.started, status.ended, 0) || state, status.warned ? "with warnings" : ""]
        .filter(Boolean)
        .join(", ");
    case "failed":
      return status.absorbed ? `failed, dealt with` : (message ?? state);
    case "held":
      return hold?.message ?? "held by its guard";
    case "queued":
      return lane == null ? state : `waits for lane ${lane}`;
    case "running":
      return progress ?? state;
    case "resting":
      return `attempt ${String(status.attempt)} failed; tries again`;
    case "paused":
      return message ?? "waits for a person";
    default:
      return state;
  }
}
