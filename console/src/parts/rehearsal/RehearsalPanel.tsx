import { Button, Checkbox, NativeSelect } from "@mantine/core";
import type { ChainDetail, RehearsalResult } from "../../core/api/types";
import { type Assumption } from "../../core/rehearsals/rehearsal";
import type { Given } from "../../core/values/typed";
import { OutputFields } from "../form/OutputFields";
import { ParameterFields } from "../form/ParameterFields";
import { useKindOutputs } from "../form/useKindOutputs";
import { StateMark } from "../run/StateMark";
import { Values } from "../step/Values";
import { addressOf } from "../../core/stepPath";
import { ErrorBox } from "../page/ErrorBox";

interface Props {
  chain: Pick<ChainDetail, "params">;
  result: RehearsalResult | null;
  refused: string | null;
  params: Given;
  setParams: (params: Given) => void;
  chosen: string | null;
  /** The kind of the chosen step. */
  kind: string | undefined;
  assumption: Assumption;
  setAssumption: (assumption: Assumption) => void;
  /** Whether what is chosen holds for the chosen iteration only. */
  single: boolean;
  setSingle: (single: boolean) => void;
  /** Runs whose data it can be played with, and the one that is. */
  runs: readonly { id: number; state: string }[];
  known: number | null;
  setKnown: (run: number | null) => void;
  /** Addresses of the steps for which something was chosen. */
  assumed: string[];
  choose: (path: string) => void;
  reset: () => void;
}

/** How the rehearsal ends, and what can be chosen for it. */
export function RehearsalPanel({
  chain,
  result,
  refused,
  params,
  setParams,
  chosen,
  kind,
  assumption,
  setAssumption,
  single,
  setSingle,
  runs,
  known,
  setKnown,
  assumed,
  choose,
  reset,
}: Props) {
  const status = result?.run.steps.find((s) => s.path === chosen);
  const outputs = useKindOutputs(kind);
  return (
    <section className="panel" aria-label="Rehearsal">
      <h2>Rehearsal</h2>
      <p className="soft small">
        Nothing of it is done. Every step succeeds with sample outputs, unless you choose otherwise: choose a step in
        the drawing.
      </p>
      {runs.length > 0 && (
        <NativeSelect
          size="xs"
          label="Steps give"
          value={known === null ? "" : String(known)}
          onChange={(e) => setKnown(e.currentTarget.value === "" ? null : Number(e.currentTarget.value))}
          data={[
            { value: "", label: "sample outputs" },
            ...runs.map((r) => ({ value: String(r.id), label: `what they gave in run ${String(r.id)} (${r.state})` })),
          ]}
        />
      )}
      <ErrorBox error={refused} />
      {result && refused === null && (
        <p>
          It ends <StateMark state={result.run.state} />
          {result.run.error != null && <> because {result.run.error}</>}
        </p>
      )}
      {chosen !== null && (
        <>
          <h3>
            <span className="mono">{addressOf(chosen)}</span> {status && <StateMark state={status.state} />}
          </h3>
          {addressOf(chosen) !== chosen && (
            <Checkbox
              mb="xs"
              size="xs"
              label={`Only for ${chosen}`}
              checked={single}
              onChange={(e) => setSingle(e.currentTarget.checked)}
            />
          )}
          <NativeSelect
            size="xs"
            aria-label="Its outcome"
            value={assumption.outcome}
            onChange={(e) => setAssumption({ ...assumption, outcome: e.currentTarget.value as Assumption["outcome"] })}
            data={[
              { value: "succeeds", label: "succeeds" },
              { value: "fails", label: "fails" },
              { value: "first", label: "fails at its first attempt only" },
            ]}
          />
          <OutputFields
            key={addressOf(chosen)}
            known={outputs}
            given={assumption.outputs}
            change={(given) => setAssumption({ ...assumption, outputs: given })}
          />
          {status?.message != null && <p className="small">{status.message}</p>}
        </>
      )}
      {assumed.length > 0 && (
        <p className="small">
          Chosen for{" "}
          {assumed.map((address, i) => (
            <span key={address}>
              {i > 0 && ", "}
              <button type="button" className="plain" onClick={() => choose(address)}>
                {address}
              </button>
            </span>
          ))}
          .{" "}
          <Button size="compact-xs" variant="default" onClick={reset}>
            Everything succeeds again
          </Button>
        </p>
      )}
      {chain.params.length > 0 && (
        <>
          <h3>Parameters</h3>
          <ParameterFields parameters={chain.params} given={params} change={setParams} />
        </>
      )}
      {result && (
        <>
          <h3>Variables at the end</h3>
          <Values value={result.run.vars} empty="It has none." />
          <h3>Outputs</h3>
          <Values value={result.run.outputs} empty="It gave none." />
        </>
      )}
    </section>
  );
}
