import type { NodeProps } from "@xyflow/react";
import { KindIcon } from "../kinds/KindIcon";
import { StateMark } from "../run/StateMark";
import { useCanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { Flags } from "./Flags";
import { useFolds } from "./folds";
import { Picks } from "./Picks";
import { Ends, type StepBoxNode } from "./StepBox";

/** A step that holds steps; in a run one of its iterations is in view. */
export function ContainerBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const edit = useEditView();
  const status = view?.step(step.address);
  const { fold } = useFolds();
  return (
    <div
      className="container"
      data-state={status?.state}
      data-step={step.address}
      data-over={edit?.over === step.address}
      data-disabled={step.disabled}
      data-chosen={edit ? edit.chosen.has(step.address) : status !== undefined && status.path === view?.chosen}
    >
      <Ends name={step.id} />
      <div className="head">
        {edit && (
          <button
            type="button"
            className="foldbutton nodrag"
            tabIndex={-1}
            aria-label={`Fold ${step.id}`}
            title="Fold"
            onClick={(e) => {
              e.stopPropagation();
              fold(step.address, true);
            }}
          >
            ▾
          </button>
        )}
        <KindIcon kind={step.kind} />
        <span className="title">
          {step.guarded && (
            <span className="guardmark" title="A guard stands on its threshold">
              ◇{" "}
            </span>
          )}
          {step.title}
        </span>
        <span className="note" title={step.note ?? undefined}>
          {step.note}
        </span>
        <Picks address={step.address} title={step.title} hidden={Number(status?.hidden ?? 0)} />
        <Flags address={step.address} />
        {status && status.state !== "pending" && (
          // Beside iterations, which say how they went, a mark is enough.
          <StateMark state={status.state} short={view?.iterations(step.address) !== undefined} />
        )}
      </div>
    </div>
  );
}
