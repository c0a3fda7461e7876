import type { KeyboardEvent } from "react";
import type { ProblemInfo } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";
import type { Box } from "../../../core/graph/flow";
import type { CanvasView } from "../../canvas/CanvasView";
import type { EditView } from "../../canvas/EditView";
import { useDesigning } from "../useDesign";
import { DesignCanvas } from "./DesignCanvas";
import { sayChosen } from "./marks";

/** The problem of a text that is no YAML. */
export const unreadable = "GC1001";

/** The canvas with its keys, and what it says while it is empty or a step is being picked. */
export function CanvasPane({
  state,
  view,
  edit,
  drawn,
  goTo,
  ask,
  onKeyDown,
  menu,
}: {
  state: DesignState;
  view: CanvasView | null;
  edit: EditView;
  drawn: (boxes: Box[]) => void;
  goTo: (problem: ProblemInfo) => void;
  ask: (after: string | null, scope: string) => void;
  onKeyDown: (event: KeyboardEvent) => void;
  /** Opens the menu of what is chosen, at a point of the page. */
  menu: (at: { x: number; y: number }) => void;
}) {
  const { store } = useDesigning();
  const broken = state.problems.find((p) => p.code === unreadable);
  return (
    <div
      className="designcanvas canvas"
      tabIndex={0}
      role="application"
      aria-label="Canvas. Arrow keys walk along gates, A adds a step, G starts a gate, Enter opens the chosen step, J goes to one of its fields, F2 renames it"
      onKeyDown={(event) => {
        if (event.key === "ContextMenu" || (event.shiftKey && event.key === "F10")) {
          event.preventDefault();
          const chosen = event.currentTarget.querySelector("[data-chosen=true]") ?? event.currentTarget;
          const box = chosen.getBoundingClientRect();
          menu({ x: box.left + Math.min(24, box.width / 2), y: box.top + Math.min(40, box.height / 2) });
        } else onKeyDown(event);
      }}
    >
      <DesignCanvas state={state} view={view} edit={edit} drawn={drawn} ask={ask} menu={view === null ? menu : null} />
      {broken && (
        <div className="pickhint wrong" role="alert">
          The source can’t be read, so the drawing shows what it was before.{" "}
          <button type="button" className="linkbutton" onClick={() => goTo(broken)}>
            Go to line {broken.line}
          </button>
        </div>
      )}
      {state.picking && (
        <div className="pickhint" role="status">
          Click the step whose output you want{" "}
          <button type="button" className="linkbutton" onClick={() => store.pickStep(null)}>
            Cancel
          </button>
        </div>
      )}
      <div className="visuallyhidden" role="status">
        {sayChosen(state)}
      </div>
      {state.design.root.steps.length === 0 && (
        <div className="canvasempty">
          <p>
            <b>This chain has no steps yet.</b>
          </p>
          <p>
            Drag a kind of step from the left, or press <kbd>A</kbd>. Then draw a gate from its right edge to the next
            one, or press <kbd>G</kbd>.
          </p>
        </div>
      )}
    </div>
  );
}
