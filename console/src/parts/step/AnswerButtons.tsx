import { Button, Group } from "@mantine/core";
import { useState } from "react";
import { act } from "../../app/act";
import { answerRun } from "../../core/api/client";
import { valuesOf } from "../../core/values/typed";
import { OutputFields, type GivenOutputs } from "../form/OutputFields";
import { useKindOutputs } from "../form/useKindOutputs";
import { FormDialog } from "../page/FormDialog";

/**
 * What a person can decide about a step that has paused its run; one that holds others, or calls a chain, continues
 * inside or starts over.
 */
export function AnswerButtons({
  run,
  path,
  kind,
  holds,
}: {
  run: number;
  path: string;
  /** The kind of the step, whose outputs are offered when it is settled. */
  kind: string | undefined;
  holds: boolean;
}) {
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
      {settling && <SettleDialog run={run} path={path} kind={kind} close={() => setSettling(false)} />}
    </Group>
  );
}

/** Asks for the outputs a step is settled with. */
function SettleDialog({ run, path, kind, close }: { run: number; path: string; kind?: string; close: () => void }) {
  const known = useKindOutputs(kind);
  const [given, setGiven] = useState<GivenOutputs>({});
  const [refused, setRefused] = useState<string | null>(null);
  const settle = async () => {
    try {
      await answerRun(run, path, "settle", valuesOf(given));
      close();
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <FormDialog title={`Settle ${path}`} submitLabel="Settle" submit={settle} close={close} error={refused}>
      <p className="small" style={{ marginTop: 0 }}>
        It counts as succeeded with these outputs; what it assigns is computed from them.
      </p>
      <OutputFields
        known={known}
        given={given}
        change={(next) => {
          setGiven(next);
          setRefused(null);
        }}
      />
    </FormDialog>
  );
}
