import { Allowed } from "../access/Allowed";
import { Button } from "@mantine/core";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import { pauseRun, restartRun, stopRun } from "../../core/api/client";
import type { RunDetail } from "../../core/api/types";
import { ConfirmButton } from "../page/ConfirmButton";
import { PinButton } from "./PinButton";
import { ResumeDialog } from "./ResumeDialog";

/** What a person can do with a run in the state it is in. */
export function RunButtons({ run, chosen }: { run: RunDetail; chosen: string | null }) {
  const [resuming, setResuming] = useState(false);
  const navigate = useNavigate();
  // Also from elsewhere: by its address.
  const asked = useSearch({ from: "/runs/$id" }).do === "resume";
  const restart = async () => {
    const next = await act("The run was not restarted", () => restartRun(run.id));
    if (next) await navigate({ to: "/runs/$id", params: { id: String(next.id) } });
  };
  const going = run.ended == null;
  const resumable =
    run.state === "failed" ||
    run.state === "stopped" ||
    run.state === "paused" ||
    (run.state === "succeeded" && chosen !== null);
  return (
    <Allowed permission="operate" folder={run.area} tell>
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
        <ConfirmButton
          size="xs"
          variant="default"
          label={going ? "Stop" : "Cancel automatic resume"}
          question={going ? `Stop run ${String(run.id)}?` : `Cancel the automatic resume of run ${String(run.id)}?`}
          confirmLabel={going ? "Stop" : "Cancel resume"}
          confirm={() => act("The run was not stopped", () => stopRun(run.id, null))}
        >
          {going
            ? "Steps that run are ended, and no new step starts. The run can be resumed from there."
            : "The run stays failed. It can be resumed by hand."}
        </ConfirmButton>
      )}
      {!going && <PinButton run={run.id} />}
      {!going && (
        <ConfirmButton
          size="xs"
          variant="default"
          title="A new run with the same parameters"
          label="Restart"
          question={`Start ${run.title ?? run.chain} once more?`}
          confirmLabel="Start"
          confirm={restart}
        >
          A new run starts from the beginning, with the parameters of run {run.id} and the release that it followed.
          Everything is done a second time; to continue a failed run instead, resume it.
        </ConfirmButton>
      )}
      {resumable && (
        <Button size="xs" variant={run.state === "succeeded" ? "default" : undefined} onClick={() => setResuming(true)}>
          {run.state === "succeeded" ? "Run again from here…" : "Resume…"}
        </Button>
      )}
      {(resuming || asked) && resumable && (
        <ResumeDialog
          run={run}
          chosen={chosen}
          close={() => {
            setResuming(false);
            if (asked)
              void navigate({
                to: "/runs/$id",
                params: { id: String(run.id) },
                search: ({ step, leg }) => ({ step, leg }),
                replace: true,
              });
          }}
        />
      )}
    </Allowed>
  );
}
