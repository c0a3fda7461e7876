import type { NodeProps } from "@xyflow/react";
import { bandTitle, occasionOf } from "../../core/graph/bands";
import { KindIcon } from "../kinds/KindIcon";
import { StateMark } from "../run/StateMark";
import { useCanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { useFolds } from "./folds";
import { Picks } from "./Picks";
import type { StepBoxNode } from "./StepBox";

/** A handler: what the chain does on an occasion, as a band below the flow. */
export function BandBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const edit = useEditView();
  const { folded, fold } = useFolds();
  const isFolded = folded.has(step.address);
  const state = view?.band(step.address);
  const title = bandTitle(occasionOf(step.address));
  const isEmpty = step.inner?.steps.length === 0;
  return (
    <div
      className="container band"
      data-band={step.address}
      data-state={state}
      data-over={edit?.over === step.address}
      data-chosen={edit?.chosenBand === step.address}
    >
      <div className="head">
        <button
          type="button"
          className="foldbutton nodrag"
          tabIndex={edit ? -1 : 0}
          aria-expanded={!isFolded}
          aria-label={`${isFolded ? "Open" : "Fold"} ${title}`}
          onClick={(e) => {
            e.stopPropagation();
            fold(step.address, !isFolded);
          }}
        >
          {isFolded ? "▸" : "▾"}
        </button>
        <KindIcon kind={step.address} />
        <span className="title">{title}</span>
        {step.note !== null && <span className="note">{step.note}</span>}
        {!isFolded && <Picks address={step.address} title={title} atLeast={2} />}
        {view && (state === undefined ? <span className="note">not run</span> : <StateMark state={state} />)}
      </div>
      {isEmpty && !isFolded && (
        <p className="bandempty">{edit && !view ? "Drop a step here, or choose the band and press A." : "No steps."}</p>
      )}
    </div>
  );
}
