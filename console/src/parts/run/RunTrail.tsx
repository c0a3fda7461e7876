import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { RunDetail } from "../../core/api/types";
import { trailQuery } from "../../queries/runs";

/** The calls that lead to a run that is a child, each a way back to its step. */
export function RunTrail({ run }: { run: RunDetail }) {
  const { data } = useQuery({ ...trailQuery(run.id), enabled: run.parent != null });
  if (run.parent == null) return null;
  const calls = data ?? [{ run: run.parent.run, chain: null, step: run.parent.step }];
  return (
    <nav className="trail small" aria-label="Called by">
      {calls.map((call) => (
        <span key={call.run}>
          <Link
            to="/runs/$id"
            params={{ id: String(call.run) }}
            search={{ step: call.step }}
            title={`Back to run ${String(call.run)}, at ${call.step}`}
          >
            {call.chain ?? `run ${String(call.run)}`}
            <span className="soft"> {call.step}</span>
          </Link>
          <span className="soft" aria-hidden>
            {" › "}
          </span>
        </span>
      ))}
    </nav>
  );
}
