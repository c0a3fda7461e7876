import type { TraceInfo } from "../../core/api/types";
import { GateMark } from "../canvas/GateMark";
import { StateMark } from "../run/StateMark";

/** What happened in a rehearsal, line by line. */
export function TraceList({
  trace,
  chosen,
  choose,
}: {
  trace: TraceInfo[];
  chosen: string | null;
  choose: (path: string) => void;
}) {
  return (
    <ol className="trace" aria-label="What happens" tabIndex={0}>
      {trace.map((line, i) => (
        <li key={i} data-what={line.what} aria-current={line.path === chosen}>
          <span className="num">{i + 1}</span>
          <span className="sign">
            {line.what === "gate" ? (
              <GateMark state={line.outcome ?? "undecided"} size={14} />
            ) : line.outcome != null && line.what !== "guard" ? (
              <StateMark state={line.outcome} short />
            ) : null}
          </span>
          {line.what === "step" ? (
            <button type="button" className="plain" onClick={() => choose(line.path)}>
              {line.path}
            </button>
          ) : (
            <span className="mono">{line.path}</span>
          )}
          <span>{line.text}</span>
        </li>
      ))}
    </ol>
  );
}
