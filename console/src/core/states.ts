export type State =
  | "pending"
  | "held"
  | "queued"
  | "running"
  | "resting"
  | "paused"
  | "succeeded"
  | "failed"
  | "skipped"
  | "stopped"
  | "lost";

/** Marks that tell states apart without colour. */
export const marks: Record<State, string> = {
  pending: "○",
  held: "◇",
  queued: "≡",
  paused: "‖",
  running: "▸",
  resting: "◔",
  succeeded: "✓",
  failed: "✕",
  skipped: "–",
  stopped: "■",
  lost: "↯",
};

export function asState(word: string): State {
  return word in marks ? (word as State) : "pending";
}

/** The state that tells most about several: what runs, then what went wrong. */
export function worst(words: readonly string[]): State {
  const order: State[] = [
    "running",
    "paused",
    "failed",
    "stopped",
    "held",
    "queued",
    "resting",
    "pending",
    "skipped",
    "succeeded",
  ];
  return order.find((state) => words.includes(state)) ?? "pending";
}
