import { Button, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { act } from "../../../app/act";
import { useNow } from "../../../app/useNow";
import { useRun } from "../../../queries/useRun";
import { resumeRun, stopRun, tryDraft, type TryRequest } from "../../../core/api/client";
import type { RunDetail } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";
import type { DesignStep } from "../../../core/document/design";
import { defaultsOf, keepValues, lastValues, parametersOf } from "../../../core/designer/parameters";
import { inView, type Chosen } from "../../../core/graph/instances";
import type { CanvasView } from "../../canvas/CanvasView";
import { readAll, valuesOf, type Given } from "../../../core/values/typed";
import { focusWrong } from "../../form/focusWrong";
import { OutputFields, type GivenOutputs } from "../../form/OutputFields";
import { ParameterFields } from "../../form/ParameterFields";
import { useKindOutputs } from "../../form/useKindOutputs";
import { StateMark } from "../../run/StateMark";
import { StepPanel } from "../../step/StepPanel";
import { Values } from "../../step/Values";
import { ErrorBox } from "../../page/ErrorBox";
import { useDesigning } from "../useDesign";
import { addressOf } from "../../../core/stepPath";
import { recentRunsQuery } from "../../../queries/runs";

const parts = [
  { value: "whole", label: "the whole chain" },
  { value: "from", label: "from a step on" },
  { value: "only", label: "only one step" },
  { value: "upTo", label: "up to a step" },
];

/** Runs the draft here and now; its state shows on the canvas. */
export function useTry(state: DesignState, on: boolean, pauses: ReadonlySet<string>) {
  const [id, setId] = useState<number | null>(null);
  const { run } = useRun(on && id !== null ? id : 0, undefined, on && id !== null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [picked, setPicked] = useState<Chosen>(new Map());
  const { store } = useDesigning();
  const now = useNow(on && run?.ended == null && run !== null);
  const choose = (path: string) => {
    setChosen(path);
    const address = addressOf(path);
    if (store.state.design.steps.has(address)) store.select({ steps: [address], gate: null });
  };
  const view: CanvasView | null =
    on && run
      ? {
          ...inView(run, picked),
          chosen,
          choose,
          pick: (c, i) => setPicked((b) => new Map(b).set(c, i)),
          gateKey: String(run.seq),
          gateWhy: (g) => Promise.resolve(gateState(run, g)),
        }
      : null;
  const panel = (
    <section className="panel" aria-label="Try">
      <TryForm
        state={state}
        pauses={pauses}
        started={(n) => {
          setId(n);
          setChosen(null);
        }}
        running={run !== null && run.ended == null}
      />
      {run && <TryRun run={run} />}
      {run && chosen !== null && run.steps.some((s) => s.path === chosen) && (
        <StepPanel run={run} path={chosen} leg={undefined} now={now} />
      )}
    </section>
  );
  return { view, panel, run };
}

const gateState = (run: RunDetail, gate: { scope: string; from: string; to: string }) =>
  run.steps.some((s) => s.path === (gate.scope === "" ? gate.from : `${gate.scope}/${gate.from}`))
    ? `The gate from “${gate.from}” to “${gate.to}” in run ${String(run.id)}; choose “${gate.to}” to see why.`
    : `“${gate.from}” has not settled.`;

function TryForm({
  state,
  pauses,
  started,
  running,
}: {
  state: DesignState;
  pauses: ReadonlySet<string>;
  started: (id: number) => void;
  running: boolean;
}) {
  const { store, context } = useDesigning();
  const { design, selection } = state;
  const params = useMemo(() => parametersOf(design), [design]);
  const [given, setGiven] = useState<Given>(() => {
    const last = lastValues(store.chain);
    return {
      ...defaultsOf(params),
      ...Object.fromEntries(Object.entries(last).filter(([n]) => params.some((p) => p.name === n))),
    };
  });
  const [sent, setSent] = useState(false);
  const { values, wrong } = readAll(params, given);
  const [part, setPart] = useState<TryRequest["part"]>("whole");
  const [chosenStep, setStep] = useState("");
  const [known, setKnown] = useState("");
  const [outputs, setOutputs] = useState<Readonly<Record<string, GivenOutputs>>>({});
  const [profile, setProfile] = useState(context.profiles[0] ?? "");
  const [busy, setBusy] = useState(false);
  const { data: runs } = useQuery(recentRunsQuery(store.chain));
  const steps = design.root.steps;
  const step = steps.some((s) => s.id === chosenStep)
    ? chosenStep
    : (steps.find((s) => s.address === selection.steps[0])?.id ?? steps[0]?.id ?? "");
  const errors = state.problems.filter((p) => p.severity === "error").length;
  const start = async () => {
    setSent(true);
    if (Object.keys(wrong).length > 0) {
      focusWrong();
      return;
    }
    setBusy(true);
    keepValues(store.chain, given);
    const byStep = Object.fromEntries(Object.entries(outputs).map(([id, texts]) => [id, valuesOf(texts)]));
    const run = await act("The try was not started", () =>
      tryDraft(store.chain, {
        source: store.text,
        params: values,
        profile: profile === "" ? null : profile,
        part,
        step: part === "whole" ? null : step,
        known: known === "" ? null : Number(known),
        given: part === "whole" || part === "upTo" ? {} : byStep,
        pauseBefore: [...pauses],
      }),
    );
    setBusy(false);
    if (run) started(run.id);
  };
  return (
    <>
      <h2>Try</h2>
      <p className="soft small">Runs the draft as it is, for real, without releasing it.</p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void start();
        }}
      >
        <NativeSelect
          size="xs"
          label="What"
          value={part}
          data={parts}
          onChange={(e) => setPart(e.currentTarget.value as TryRequest["part"])}
        />
        {part !== "whole" && (
          <NativeSelect
            size="xs"
            mt="xs"
            label="The step"
            value={step}
            data={steps.map((s) => ({ value: s.id, label: s.title === s.id ? s.id : `${s.title} (${s.id})` }))}
            onChange={(e) => setStep(e.currentTarget.value)}
          />
        )}
        {(part === "from" || part === "only") && (
          <>
            <NativeSelect
              size="xs"
              mt="xs"
              label="Steps before it"
              description="How they ended, and what they gave"
              value={known}
              onChange={(e) => setKnown(e.currentTarget.value)}
              data={[
                { value: "", label: "succeeded, with what is given below" },
                ...(runs ?? []).map((r) => ({ value: String(r.id), label: `as in run ${String(r.id)} (${r.state})` })),
              ]}
            />
            {steps
              .filter((s) => s.id in outputs)
              .map((s) => (
                <GivenOfStep
                  key={s.id}
                  step={s}
                  given={outputs[s.id] ?? {}}
                  change={(texts) => setOutputs({ ...outputs, [s.id]: texts })}
                />
              ))}
            <NativeSelect
              size="xs"
              mt="xs"
              label="Give outputs of"
              value=""
              data={[
                { value: "", label: "choose a step" },
                ...steps
                  .filter((s) => !(s.id in outputs) && s.id !== step)
                  .map((s) => ({ value: s.id, label: s.title === s.id ? s.id : `${s.title} (${s.id})` })),
              ]}
              onChange={(e) => setOutputs({ ...outputs, [e.currentTarget.value]: {} })}
            />
          </>
        )}
        <ParameterFields parameters={params} given={given} change={setGiven} wrong={sent ? wrong : {}} size="xs" />
        {context.profiles.length > 1 && (
          <NativeSelect
            size="xs"
            mt="xs"
            label="Profile"
            value={profile}
            data={context.profiles}
            onChange={(e) => setProfile(e.currentTarget.value)}
          />
        )}
        <p className="small soft">
          {pauses.size === 0
            ? "To pause before a step, choose it on the canvas and press P."
            : `Pauses before ${[...pauses].join(", ")}.`}
        </p>
        {errors > 0 && (
          <p className="small wrong">
            ⨯ {errors === 1 ? "One error has" : `${String(errors)} errors have`} to be fixed first; see Problems.
          </p>
        )}
        <Button type="submit" size="xs" loading={busy} disabled={errors > 0 || running}>
          Start
        </Button>
      </form>
    </>
  );
}

/** What a step that is left out is said to have given. */
function GivenOfStep({
  step,
  given,
  change,
}: {
  step: DesignStep;
  given: GivenOutputs;
  change: (given: GivenOutputs) => void;
}) {
  const known = useKindOutputs(step.kind);
  return (
    <fieldset className="record">
      <legend className="mono">{step.id}</legend>
      <OutputFields known={known} given={given} change={change} />
    </fieldset>
  );
}

function TryRun({ run }: { run: RunDetail }) {
  return (
    <>
      <h3>
        <Link to="/runs/$id" params={{ id: String(run.id) }}>
          Run {run.id}
        </Link>{" "}
        <StateMark state={run.state} />
      </h3>
      <ErrorBox error={run.error} />
      <div style={{ display: "flex", gap: 6 }}>
        {run.state === "paused" && (
          <Button
            size="compact-xs"
            onClick={() =>
              void act("The run was not resumed", () =>
                resumeRun(run.id, { set: {}, from: [], skip: [], release: null }),
              )
            }
          >
            Continue
          </Button>
        )}
        {run.ended == null && (
          <Button
            size="compact-xs"
            variant="default"
            onClick={() => void act("The run was not stopped", () => stopRun(run.id, null))}
          >
            Stop
          </Button>
        )}
      </div>
      <h3>Variables</h3>
      <Values value={run.vars} empty="It has none." />
      {run.ended != null && (
        <>
          <h3>Outputs</h3>
          <Values value={run.outputs} empty="It gave none." />
        </>
      )}
    </>
  );
}
