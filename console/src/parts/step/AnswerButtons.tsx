import { Button, Group, Textarea } from "@mantine/core";
import { useState } from "react";
import { act } from "../../app/act";
import { answerRun } from "../../core/api/client";
import { outputsOf } from "../../core/format";
import { FormDialog } from "../page/FormDialog";

/**
 * What a person can decide about a step that has paused its run; one that holds others, or calls a chain, continues
 * inside or starts over.
 */
export function AnswerButtons({ run, path, holds }: { run: number; path: string; holds: boolean }) {
  const [settling, setSettling] = useState(false);
  const answer = (word: string) => act(`“${path}” was not decided`, () => answerRun(run, path, word, null));
  return (
    <Group gap={6} wrap="nowrap" role="group" aria-label={`Decide about ${path}`}>
      <Button size="compact-xs" onClick={() => void answer("retry")}>
        {holds ? "Retry inside" : "Retry"}
      </Button>
      {holds && (
        <Button size="compact-xs" variant="default" onClick={() => void answer("anew")}>
          Start over
        </Button>
      )}
      <Button size="compact-xs" variant="default" onClick={() => void answer("skip")}>
        Skip
      </Button>
      <Button size="compact-xs" variant="default" onClick={() => setSettling(true)}>
        Settle…
      </Button>
      <Button size="compact-xs" variant="default" onClick={() => void answer("fail")}>
        Fail
      </Button>
      {settling && <SettleDialog run={run} path={path} close={() => setSettling(false)} />}
    </Group>
  );
}

/** Asks for the outputs a step is settled with. */
function SettleDialog({ run, path, close }: { run: number; path: string; close: () => void }) {
  const [text, setText] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const settle = async () => {
    const outputs = outputsOf(text);
    if (outputs instanceof Error) {
      setWrong(outputs.message);
      return;
    }
    if (await act(`“${path}” was not settled`, () => answerRun(run, path, "settle", outputs))) close();
  };
  return (
    <FormDialog title={`Settle ${path}`} submitLabel="Settle" submit={settle} close={close}>
      <p className="small" style={{ marginTop: 0 }}>
        It counts as succeeded with these outputs; what it assigns is computed from them.
      </p>
      <Textarea
        label="Outputs"
        description="One a line, name = value; a value may be JSON"
        autosize
        minRows={3}
        value={text}
        error={wrong}
        placeholder={"rows = 12"}
        onChange={(e) => {
          setText(e.currentTarget.value);
          setWrong(null);
        }}
      />
    </FormDialog>
  );
}
