import { Button, NativeSelect, TextInput } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import type { ProblemInfo } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";
import { setKey } from "../../../core/designer/operations";
import { applyChanges } from "../../../core/document/edit";
import { useDesigning } from "../useDesign";
import { FormDialog } from "../../page/FormDialog";
import { Prose } from "../../page/Prose";

/** A secret that is not set: that is done elsewhere. */
const unsetSecret = "GC1409";

const signs: Record<string, string> = { error: "⨯", warning: "△", hint: "◌" };

/** What is wrong with the draft. A click leads to the place on the canvas, in the inspector and in the source. */
export function ProblemsPanel({ state, goTo }: { state: DesignState; goTo: (problem: ProblemInfo) => void }) {
  if (state.problems.length === 0)
    return <div className="panelempty">{state.checked ? "✓ Nothing is wrong with it." : "Checking…"}</div>;
  const worst = ["error", "warning"];
  const real = state.problems
    .filter((p) => p.severity !== "hint")
    .sort((x, y) => worst.indexOf(x.severity) - worst.indexOf(y.severity) || x.line - y.line);
  const hints = state.problems.filter((p) => p.severity === "hint");
  return (
    <>
      {real.length === 0 && <div className="panelempty">✓ Nothing is wrong with it.</div>}
      {real.length > 0 && <ProblemRows problems={real} state={state} goTo={goTo} label="Problems" />}
      {hints.length > 0 && (
        <>
          <h3 className="hintshead">Hints</h3>
          <ProblemRows problems={hints} state={state} goTo={goTo} label="Hints" />
        </>
      )}
    </>
  );
}

function ProblemRows({
  problems,
  state,
  goTo,
  label,
}: {
  problems: readonly ProblemInfo[];
  state: DesignState;
  goTo: (problem: ProblemInfo) => void;
  label: string;
}) {
  const { store } = useDesigning();
  return (
    <ul className="problems" aria-label={label}>
      {problems.map((p, i) => {
        const where = p.step ?? (p.gate ? `${p.gate.from || "?"} → ${p.gate.to || "?"}` : "chain");
        return (
          <li key={i} data-severity={p.severity}>
            <button type="button" className="problem" onClick={() => goTo(p)}>
              <span className="sign" role="img" aria-label={p.severity}>
                {signs[p.severity]}
              </span>
              <span className="mono where">{where}</span>
              <span className="what">
                <Prose text={p.message} />
                {p.fix != null && (
                  <span className="soft">
                    {" "}
                    — <Prose text={p.fix} />
                  </span>
                )}
              </span>
              <span className="soft mono">{p.code}</span>
              <span className="soft mono">line {p.line}</span>
            </button>
            <Link
              to="/help"
              search={{ about: "problems", find: p.code }}
              target="_blank"
              className="small"
              title={`What ${p.code} means, with an example`}
            >
              help ›
            </Link>
            {p.code === unsetSecret && (
              <Link to="/connections" className="small">
                Set it ›
              </Link>
            )}
            {p.severity === "hint" && <RestButton problem={p} state={state} />}
            {p.edit && (
              <Button
                size="compact-xs"
                variant="default"
                disabled={!state.checked}
                onClick={() => {
                  const e = p.edit;
                  if (e)
                    store.apply({
                      text: applyChanges(store.text, [{ from: e.start, to: e.start + e.length, insert: e.text }]),
                    });
                }}
              >
                Fix: {p.edit.text}
              </Button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

/** Puts a hint to rest, for the chain or one step, with a reason that stays in the file. */
function RestButton({ problem, state }: { problem: ProblemInfo; state: DesignState }) {
  const { store } = useDesigning();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const [where, setWhere] = useState("");
  const step = state.design.steps.get(problem.step ?? "");
  const rest = () => {
    const path = where === "" || !step ? [] : [...step.path];
    store.apply(setKey(store.state.design, [...path, "quiet", problem.code], reason.trim()));
    setAsking(false);
    return Promise.resolve();
  };
  return (
    <>
      <Button size="compact-xs" variant="default" onClick={() => setAsking(true)}>
        Put to rest…
      </Button>
      {asking && (
        <FormDialog
          title={`Put ${problem.code} to rest`}
          submitLabel="Put to rest"
          submit={rest}
          close={() => setAsking(false)}
          disabled={reason.trim() === ""}
        >
          <p className="small" style={{ marginTop: 0 }}>
            <Prose text={problem.message} />
          </p>
          {step && (
            <NativeSelect
              label="For"
              value={where}
              data={[
                { value: "", label: "the whole chain" },
                { value: "step", label: `the step ${step.title}` },
              ]}
              onChange={(e) => setWhere(e.currentTarget.value)}
            />
          )}
          <TextInput
            mt="sm"
            label="Why"
            description="It stays in the chain's file, under quiet."
            required
            data-autofocus
            value={reason}
            onChange={(e) => setReason(e.currentTarget.value)}
          />
        </FormDialog>
      )}
    </>
  );
}
