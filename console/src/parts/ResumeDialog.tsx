import { Button, Group, Modal } from "@mantine/core";
import { useState } from "react";
import { act } from "../app/act";
import { resumeRun } from "../core/api/client";
import type { RunDetail } from "../core/api/types";
import { typed } from "../core/format";
import { ParameterFields, type Given } from "./ParameterFields";

/** Goes on with a run from its checkpoint, with parameters changed where the person changes them. */
export function ResumeDialog({ run, close }: { run: RunDetail; close: () => void }) {
  const before = run.params as Record<string, unknown>;
  const atFirst: Given = Object.fromEntries(run.parameters.map((p) => [p.name, typed(before[p.name])]));
  const [given, setGiven] = useState(atFirst);
  const [busy, setBusy] = useState(false);
  const resume = async () => {
    setBusy(true);
    const changed = Object.fromEntries(Object.entries(given).filter(([name, text]) => text !== atFirst[name]).map(([name, text]) => [`params.${name}`, text]));
    const resumed = await act("The run was not resumed", () => resumeRun(run.id, changed));
    setBusy(false);
    if (resumed) close();
  };
  return (
    <Modal opened onClose={close} title={`Resume run ${String(run.id)}`} closeButtonProps={{ "aria-label": "Close" }}>
      <p className="small" style={{ marginTop: 0 }}>
        It goes on from the checkpoint: what failed or was stopped is done again, with all that settled because of it. Everything else is kept.
        {run.failures.length > 0 && <> Failed: <code>{run.failures.slice(0, 5).join(", ")}</code>.</>}
      </p>
      <form onSubmit={(e) => { e.preventDefault(); void resume(); }}>
        <ParameterFields parameters={run.parameters} given={given} change={setGiven} />
        <Group mt="lg" justify="flex-end">
          <Button variant="default" onClick={close}>Cancel</Button>
          <Button type="submit" loading={busy}>Resume</Button>
        </Group>
      </form>
    </Modal>
  );
}
