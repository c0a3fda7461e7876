import { useEffect, type ReactNode, type RefObject } from "react";
import { tellPlace } from "../../../core/help/place";
import type { DesignState } from "../../../core/designer/DesignStore";
import { focusCanvas } from "../canvas/focus";
import { ChainInspector } from "./ChainInspector";
import { GateInspector } from "./GateInspector";
import { HandlerInspector } from "./HandlerInspector";
import { StepInspector } from "./StepInspector";

/** The part at the right: what is chosen on the canvas, or the panel of a mode; Escape leads back to the canvas. */
export function Inspector({
  state,
  panel,
  host,
}: {
  state: DesignState;
  panel: ReactNode | null;
  host: RefObject<HTMLElement | null>;
}) {
  return (
    <aside
      className="inspector"
      ref={host}
      aria-label={panel === null ? "Inspector" : undefined}
      onKeyDown={(e) => {
        if (e.key === "Escape" && !e.defaultPrevented) focusCanvas();
      }}
    >
      {panel ?? (
        <div className="inspect">
          <Chosen state={state} />
        </div>
      )}
    </aside>
  );
}

function Chosen({ state: { design, selection, choice } }: { state: DesignState }) {
  const step = selection.steps.length === 1 ? design.steps.get(selection.steps[0] ?? "") : undefined;
  const kind = step?.kind;
  useEffect(() => {
    tellPlace(kind === undefined ? null : { about: "kinds", find: kind });
    return () => tellPlace(null);
  }, [kind]);
  if (step) return <StepInspector key={choice} step={step} />;
  const gate = selection.gate ? design.gate(selection.gate.scope, selection.gate.index) : undefined;
  if (gate) return <GateInspector key={`${gate.scope}#${String(gate.index)}`} gate={gate} />;
  if (selection.band !== undefined) return <HandlerInspector key={selection.band} band={selection.band} />;
  if (selection.steps.length <= 1) return <ChainInspector />;
  return (
    <>
      <div className="inspecthead">
        <span className="kindword">{selection.steps.length} steps</span>
      </div>
      <p className="soft small">Ctrl+C copies them, Delete removes them with their gates; drag one to move all.</p>
    </>
  );
}

/** Gives the keyboard to the first field of the inspector. */
export const focusInspector = (host: RefObject<HTMLElement | null>) =>
  (host.current?.querySelector("input, select, textarea, [contenteditable=true]") as HTMLElement | null)?.focus();
