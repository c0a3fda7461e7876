import { Button, NativeSelect, Textarea } from "@mantine/core";
import type { ChainDetail, RehearsalResult } from "../../core/api/types";
import { outputsOf } from "../../core/format";
import { type Assumption } from "../../core/rehearsals/rehearsal";
import { ParameterFields, type Given } from "../run/ParameterFields";
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
  assumption: Assumption;
  setAssumption: (assumption: Assumption) => void;
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
  assumption,
  setAssumption,
  assumed,
  choose,
  reset,
}: Props) {
  const status = result?.run.steps.find((s) => s.path === chosen);
  const wrong = outputsOf(assumption.outputs);
  return (
    <section className="panel" aria-label="Rehearsal">
      <h2>Rehearsal</h2>
      <p className="soft small">
        Nothing of it is done. Every step succeeds with sample outputs, unless you choose otherwise: choose a step in
        the drawing.
      </p>
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
          <Textarea
            mt="xs"
            size="xs"
            label="Outputs"
            description="One a line, name = value; a value may be JSON"
            autosize
            minRows={2}
            value={assumption.outputs}
            error={wrong instanceof Error ? wrong.message : null}
            placeholder="rows_rejected = 1200"
            onChange={(e) => setAssumption({ ...assumption, outputs: e.currentTarget.value })}
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
