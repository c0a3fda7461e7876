import { Button } from "@mantine/core";
import type { ProblemInfo } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";
import { applyChanges } from "../../../core/document/edit";
import { useDesigning } from "../useDesign";
import { Prose } from "../../page/Prose";

const signs: Record<string, string> = { error: "⨯", warning: "△", hint: "◌" };

/** What is wrong with the draft. A click leads to the place on the canvas, in the inspector and in the source. */
export function ProblemsPanel({ state, goTo }: { state: DesignState; goTo: (problem: ProblemInfo) => void }) {
  const { store } = useDesigning();
  if (state.problems.length === 0)
    return <div className="panelempty">{state.checked ? "✓ Nothing is wrong with it." : "Checking…"}</div>;
  const worst = ["error", "warning", "hint"];
  const sorted = [...state.problems].sort(
    (a, b) => worst.indexOf(a.severity) - worst.indexOf(b.severity) || a.line - b.line,
  );
  return (
    <ul className="problems" aria-label="Problems">
      {sorted.map((p, i) => {
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
                {p.mend != null && (
                  <span className="soft">
                    {" "}
                    — <Prose text={p.mend} />
                  </span>
                )}
              </span>
              <span className="soft mono">{p.code}</span>
              <span className="soft mono">line {p.line}</span>
            </button>
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
