import { Handle, Position, type Node, type NodeProps } from "@xyflow/react";
import type { StepNode } from "../../core/api/types";
import { StateMark } from "../StateMark";
import { useCanvasView } from "./CanvasView";

export type StepBoxNode = Node<{ step: StepNode }, "step" | "container">;

const joinWords: Record<string, string> = { all: "", any: "first gate starts it", some: "needs some gates" };

function Ends() {
  return (
    <>
      <Handle type="target" position={Position.Left} className="hidden" isConnectable={false} />
      <Handle type="source" position={Position.Right} className="hidden" isConnectable={false} />
    </>
  );
}

/** A step without steps inside. */
export function StepBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const status = view?.step(step.address);
  const note = [joinWords[step.join] ?? `needs ${step.join} gates`, status?.state === "held" ? (status.hold?.message ?? "held by its guard") : "", step.note ?? "", step.lane != null ? `lane ${step.lane}` : ""].filter((part) => part !== "").join(" · ");
  return (
    <div className="step" data-state={status?.state} data-step={step.address} data-disabled={step.disabled} data-chosen={status !== undefined && status.path === view?.chosen}>
      <Ends />
      <div className="top">
        <span>{step.guarded && <span title="A guard stands on its threshold">◇ </span>}{step.kind}</span>
        {status && status.state !== "pending" && <StateMark state={status.state} />}
      </div>
      <div className="title" title={step.title}>
        {step.title}
      </div>
      {note !== "" && (
        <div className="note" title={note}>
          {note}
        </div>
      )}
    </div>
  );
}

/** A step that holds steps; in a run one of its iterations is in view. */
export function ContainerBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const status = view?.step(step.address);
  const iterations = view?.iterations(step.address);
  return (
    <div className="container" data-state={status?.state} data-step={step.address} data-chosen={status !== undefined && status.path === view?.chosen}>
      <Ends />
      <div className="head">
        <span className="title">{step.title}</span>
        <span className="note">
          {step.kind} {step.note}
        </span>
        {status && status.state !== "pending" && <StateMark state={status.state} />}
      </div>
      {iterations && (
        <div className="picks nodrag" role="group" aria-label={`Iterations of ${step.title}`}>
          {iterations.all.slice(0, 40).map((iteration) => (
            <button
              key={iteration.path}
              type="button"
              data-state={iteration.state}
              aria-pressed={iteration.index === iterations.shown}
              onClick={(event) => {
                event.stopPropagation();
                view?.pick(iterations.path, iteration.index);
              }}
            >
              <StateMark state={iteration.state} short /> {iteration.item}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
