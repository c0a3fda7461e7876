import { Allowed } from "../access/Allowed";
import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { act } from "../../app/act";
import { confirmGone } from "../../core/api/client";
import type { RunDetail } from "../../core/api/types";
import { clock } from "../../core/format";
import { kindOf } from "../../core/graph/bands";
import { addressOf } from "../../core/stepPath";
import { holdsOthers } from "../../core/runs/runModel";
import { AnswerButtons } from "../step/AnswerButtons";

/** What a run waits for, or why it ended as it did, in a band below its head. */
export function RunNotice({
  run,
  now,
  past,
  choose,
}: {
  run: RunDetail;
  now: number;
  past: boolean;
  choose: (path: string) => void;
}) {
  const { status } = run;
  return (
    <>
      {run.error != null && (
        <div className="because" role="status">
          {run.error}
          {status.failedAt != null &&
            (status.failedAt.run !== run.id || !run.failures.includes(status.failedAt.step)) && (
              <>
                {" "}
                <Link
                  to="/runs/$id"
                  params={{ id: String(status.failedAt.run) }}
                  search={{ step: status.failedAt.step }}
                >
                  Show {status.failedAt.step} of run {status.failedAt.run}
                </Link>
              </>
            )}
        </div>
      )}
      {run.try && (
        <div className="notice" role="status">
          It tries a draft{run.try.begin.length > 0 && `, beginning with ${run.try.begin.join(", ")}`}
          {run.try.leftOut.length > 0 && `; left out: ${run.try.leftOut.join(", ")}`}.
        </div>
      )}
      {status.resumeAt != null && (
        <div className="notice" role="status">
          ◔ It resumes automatically at {clock(status.resumeAt, now)}.
        </div>
      )}
      {run.state === "queued" && (
        <div className="notice" role="status">
          ≡ It begins when the runs of{" "}
          <Link to="/runs" search={{ chain: run.chain }}>
            {run.chain}
          </Link>{" "}
          before it have ended.
        </div>
      )}
      {status.pausedBy != null && (
        <div className="notice" role="status">
          ‖ Paused by {status.pausedBy}
          {status.pauseMessage != null && `: ${status.pauseMessage}`}. Steps that run finish; no new step starts until
          the run is resumed.
        </div>
      )}
      {run.steps
        .filter((s) => s.leftOver)
        .map((step) => (
          <div className="notice" role="status" key={step.path}>
            <span>
              ✕{" "}
              <button type="button" className="plain" onClick={() => choose(step.path)}>
                {step.path}
              </button>{" "}
              was cut off, and {step.message}. It begins again only when that is gone.
            </span>
            {!past && (
              <Allowed permission="operate" folder={run.area}>
                <Button
                  size="compact-xs"
                  variant="default"
                  onClick={() => void act(`“${step.path}” still waits`, () => confirmGone(run.id, step.path))}
                >
                  It is gone
                </Button>
              </Allowed>
            )}
          </div>
        ))}
      {status.pausedSteps.map((path) => {
        const step = run.steps.find((s) => s.path === path);
        return (
          <div className="notice" role="status" key={path}>
            <span>
              ‖{" "}
              <button type="button" className="plain" onClick={() => choose(path)}>
                {path}
              </button>{" "}
              paused the run: {step?.message}
            </span>
            {!past && (
              <Allowed permission="operate" folder={run.area} tell>
                {" "}
                <AnswerButtons
                  run={run.id}
                  path={path}
                  kind={kindOf(run.graph, addressOf(path))}
                  holds={holdsOthers(run, path)}
                />
              </Allowed>
            )}
          </div>
        );
      })}
    </>
  );
}
