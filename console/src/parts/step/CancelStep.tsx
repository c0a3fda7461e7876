import { Allowed } from "../access/Allowed";
import { Button, NativeSelect, Radio, TextInput } from "@mantine/core";
import { useState } from "react";
import { act } from "../../app/act";
import { cancelStep } from "../../core/api/client";
import type { RunDetail } from "../../core/api/types";
import { cancellable } from "../../core/runs/cancelling";
import { valuesOf } from "../../core/values/typed";
import { OutputFields, type GivenOutputs } from "../form/OutputFields";
import { useKindOutputs } from "../form/useKindOutputs";
import { FormDialog } from "../page/FormDialog";

const ends = [
  { value: "failed", text: "Its failure counts as its settings say; it is not tried again." },
  { value: "skipped", text: "As if its gates had skipped it; a resume leaves it so." },
  { value: "succeeded", text: "With outputs that you give; a resume keeps it." },
];

const collected = [{ name: "collected", type: "any" }];

/** Ends a step that is at work, held, queued or resting, or the iteration that it is in. */
export function CancelStep({ run, path, kind }: { run: RunDetail; path: string; kind: string | undefined }) {
  const [asking, setAsking] = useState(false);
  return (
    <Allowed permission="operate" folder={run.area}>
      <Button size="compact-xs" variant="default" onClick={() => setAsking(true)}>
        Cancel…
      </Button>
      {asking && <CancelDialog run={run} path={path} kind={kind} close={() => setAsking(false)} />}
    </Allowed>
  );
}

function CancelDialog({
  run,
  path,
  kind,
  close,
}: {
  run: RunDetail;
  path: string;
  kind: string | undefined;
  close: () => void;
}) {
  const choices = cancellable(run, path);
  const [what, setWhat] = useState(path);
  const [as, setAs] = useState("failed");
  const [given, setGiven] = useState<GivenOutputs>({});
  const [why, setWhy] = useState("");
  const ofKind = useKindOutputs(kind);
  const cancel = async () => {
    const outputs = as === "succeeded" ? valuesOf(given) : null;
    const message = why.trim() === "" ? null : why.trim();
    if (await act(`“${what}” was not cancelled`, () => cancelStep(run.id, { step: what, as, outputs, message })))
      close();
  };
  return (
    <FormDialog title={`Cancel ${path}?`} submitLabel="Cancel it" submit={cancel} close={close}>
      <p className="small" style={{ marginTop: 0 }}>
        What works for it is ended, also inside of it and in its child run. Then it settles, and the run goes on.
      </p>
      {choices.length > 1 && (
        <NativeSelect
          label="What"
          value={what}
          data={choices}
          onChange={(e) => {
            setWhat(e.currentTarget.value);
            setGiven({});
          }}
        />
      )}
      <Radio.Group mt="sm" value={as} onChange={setAs} label="It settles as">
        {ends.map(({ value, text }) => (
          <Radio key={value} mt={4} value={value} label={value} description={text} />
        ))}
      </Radio.Group>
      {as === "succeeded" && (
        <OutputFields known={what === path ? ofKind : collected} given={given} change={setGiven} />
      )}
      <TextInput
        mt="sm"
        label="Why"
        description="Optional; shown with the step and in the audit log"
        value={why}
        onChange={(e) => setWhy(e.currentTarget.value)}
      />
    </FormDialog>
  );
}
