import { Button, Group, TextInput } from "@mantine/core";
import { useState } from "react";
import { act } from "../../app/act";
import { answerHold } from "../../core/api/client";
import { FormDialog } from "../page/FormDialog";

/** What a person can decide about a step that its guard holds. */
export function HoldButtons({ run, path, looking }: { run: number; path: string; looking: boolean }) {
  const [letting, setLetting] = useState(false);
  const [why, setWhy] = useState("");
  const look = () => act(`The guard of “${path}” did not look`, () => answerHold(run, path, "look", null));
  const letThrough = async () => {
    const message = why.trim() === "" ? null : why.trim();
    const done = await act(`“${path}” was not let through`, () => answerHold(run, path, "let-through", message));
    if (done) setLetting(false);
  };
  return (
    <Group gap={6} wrap="nowrap" role="group" aria-label={`Decide about ${path}`}>
      <Button size="compact-xs" variant="default" disabled={looking} onClick={() => void look()}>
        Look now
      </Button>
      <Button size="compact-xs" variant="default" onClick={() => setLetting(true)}>
        Let through…
      </Button>
      {letting && (
        <FormDialog
          title={`Let ${path} through?`}
          submitLabel="Let through"
          submit={letThrough}
          close={() => setLetting(false)}
        >
          <p className="small" style={{ marginTop: 0 }}>
            It starts now, as if its guard had said proceed. What the guard waits for may be missing.
          </p>
          <TextInput
            label="Why"
            description="Optional; shown with the step and in the audit log"
            value={why}
            onChange={(e) => setWhy(e.currentTarget.value)}
            data-autofocus
          />
        </FormDialog>
      )}
    </Group>
  );
}
