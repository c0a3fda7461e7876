import { asState, marks } from "../../core/states";

/** A state as mark, word and colour together. */
export function StateMark({ state, short = false }: { state: string; short?: boolean }) {
  return (
    <span className="state" data-state={state}>
      <span
        className="mark"
        aria-hidden={!short}
        role={short ? "img" : undefined}
        aria-label={short ? state : undefined}
      >
        {marks[asState(state)]}
      </span>
      {!short && state}
    </span>
  );
}
