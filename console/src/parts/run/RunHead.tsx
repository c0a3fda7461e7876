import { Button, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { RunDetail } from "../../core/api/types";
import { between, dayAndClock, releaseName } from "../../core/format";
import { toleratedFailures } from "../../core/runs/iterations";
import { expectedQuery } from "../../queries/history";
import { Expected } from "../history/Expected";
import { RunButtons } from "./RunButtons";
import { RunTrail } from "./RunTrail";
import { StateMark } from "./StateMark";

/** Of what chain a run is, how it fares, when and by whom it was started, and what can be done about it. */
export function RunHead({
  run,
  now,
  leg,
  past,
  through,
  chosen,
  setLeg,
}: {
  run: RunDetail;
  now: number;
  leg: number | undefined;
  /** Whether it is shown as it was, and not as it is. */
  past: boolean;
  /** Shows it through time; undefined while it is. */
  through: (() => void) | undefined;
  chosen: string | null;
  setLeg: (leg: number | undefined) => void;
}) {
  const last = run.resumes.at(-1)?.leg ?? 1;
  const legs = Math.max(last, run.leg);
  const tolerated = toleratedFailures(run).length;
  return (
    <div className="runhead">
      <RunTrail run={run} />
      <h1>
        <Link to="/chains/$name" params={{ name: run.chain }}>
          {run.title ?? run.chain}
        </Link>
      </h1>
      <span className="soft small">run {run.id}</span>
      <span className="pill" data-state={run.state}>
        <StateMark state={run.state} />
      </span>
      {run.status.late && <span className="late">⧗ late</span>}
      {tolerated > 0 && (
        <span className="warned small">
          △ {tolerated === 1 ? "1 failure" : `${String(tolerated)} failures`} tolerated
        </span>
      )}
      <span className="soft small facts">
        <span title="Where this browser is">{dayAndClock(run.started)}</span>
        {" · "}
        {between(run.started, run.ended, now)}
        {" · "}
        {run.fire ? (
          <>
            by trigger{" "}
            <Link to="/triggers" search={{ name: run.fire.trigger }}>
              {run.fire.trigger}
            </Link>
          </>
        ) : run.parent ? (
          `called by run ${String(run.parent.run)}`
        ) : (
          `by ${run.by}`
        )}
        {run.restartOf != null && (
          <>
            , as{" "}
            <Link to="/runs/$id" params={{ id: String(run.restartOf) }}>
              run {run.restartOf}
            </Link>{" "}
            was
          </>
        )}
        {" · "}
        {releaseName(run.number)}
        {run.ended != null && run.number != null && (
          <>
            {" · "}
            <Link to="/runs/$id/difference" params={{ id: String(run.id) }}>
              {run.state === "failed" ? "what was different?" : "beside the one before"}
            </Link>
          </>
        )}
        {run.ended == null && !past && <WhenItEnds run={run.id} now={now} />}
      </span>
      <div className="rest">
        {through && !past && (
          <Button size="xs" variant="default" title="Decision by decision, back to the run's start" onClick={through}>
            Through time…
          </Button>
        )}
        {(legs > 1 || leg !== undefined) && (
          <NativeSelect
            size="xs"
            aria-label="Leg"
            value={String(leg ?? "")}
            onChange={(e) => setLeg(e.currentTarget.value === "" ? undefined : Number(e.currentTarget.value))}
            data={[
              { value: "", label: leg !== undefined ? "as it is now" : `leg ${String(legs)}, as it is now` },
              ...Array.from({ length: leg !== undefined ? Math.max(leg, legs) : legs - 1 }, (_, i) => ({
                value: String(i + 1),
                label: `when leg ${String(i + 1)} ended`,
              })),
            ]}
          />
        )}
        {!past && <RunButtons run={run} chosen={chosen} />}
      </div>
    </div>
  );
}

/** When a run will end, where earlier ones tell it. */
function WhenItEnds({ run, now }: { run: number; now: number }) {
  const { data } = useQuery(expectedQuery(run));
  if (!data) return null;
  return (
    <>
      {" · "}
      <Expected expected={data} now={now} />
    </>
  );
}
