import { Button } from "@mantine/core";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import { pauseRun, restartRun, stopRun } from "../../core/api/client";
import type { RunDetail } from "../../core/api/types";
import { ResumeDialog } from "./ResumeDialog";

/** What a person can do with a run in the state it is in. */
export function RunButtons({ run, chosen }: { run: RunDetail; chosen: string | null }) {
  const [resuming, setResuming] = useState(false);
  const navigate = useNavigate();
  const restart = async () => {
    const next = await act("The run was not restarted", () => restartRun(run.id));
    if (next) await navigate({ to: "/runs/$id", params: { id: String(next.id) } });
  };
  const going = run.ended == null;
  const resumable = run.state === "failed" || run.state === "stopped" || run.state === "paused";
  return (
    <>
      {run.state === "running" && (
        <Button
          size="xs"
          variant="default"
          title="Steps that run finish; no new step starts"
          onClick={() => void act("The run was not paused", () => pauseRun(run.id))}
        >
          Pause
        </Button>
      )}
      {(going || run.status.resumeAt != null) && (
        <Button
          size="xs"
          variant="default"
          onClick={() => void act("The run was not stopped", () => stopRun(run.id, null))}
        >
          {going ? "Stop" : "Cancel automatic resume"}
        </Button>
      )}
      {!going && (
        <Button size="xs" variant="default" title="A new run with the same parameters" onClick={() => void restart()}>
          Restart
        </Button>
      )}
      {resumable && (
        <Button size="xs" onClick={() => setResuming(true)}>
          Resume…
        </Button>
      )}
      {resuming && <ResumeDialog run={run} chosen={chosen} close={() => setResuming(false)} />}
    </>
  );
}
