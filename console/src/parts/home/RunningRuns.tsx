import { Link } from "@tanstack/react-router";
import type { RunningInfo } from "../../core/api/types";
import { between } from "../../core/format";
import { Expected } from "../history/Expected";
import { StateMark } from "../run/StateMark";

/** Runs that have not ended: how far they are, and when they will be through. */
export function RunningRuns({
  running,
  title,
  now,
}: {
  running: readonly RunningInfo[];
  title: (chain: string) => string;
  now: number;
}) {
  if (running.length === 0) return null;
  return (
    <ul className="sheet needs">
      {running.map((run) => (
        <li key={run.run}>
          <StateMark state={run.state} />
          <div className="what">
            <Link to="/runs/$id" params={{ id: String(run.run) }} className="name">
              {title(run.chain)}
            </Link>
            <div className="why">{run.doing.length === 0 ? "no step is at work" : run.doing.join(", ")}</div>
          </div>
          <div className="more">
            <span className="soft small">
              run {run.run} · {between(run.started, null, now)} · {run.done} of {run.of} steps
            </span>
            <meter
              min={0}
              max={run.of}
              value={run.done}
              aria-label={`${String(run.done)} of ${String(run.of)} steps`}
            />
            {run.expected && <Expected expected={run.expected} now={now} />}
            {run.late && <span className="late small">⧗ late</span>}
          </div>
        </li>
      ))}
    </ul>
  );
}
