import { Handle, Position, type Node, type NodeProps } from "@xyflow/react";
import type { StepNode } from "../../core/api/types";
import { StateMark } from "../run/StateMark";
import { useCanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { useFolds } from "./folds";
import { Picks } from "./Picks";

export type StepBoxNode = Node<{ step: StepNode }, "step" | "container" | "band">;

const joinWords: Record<string, string> = { all: "", any: "first gate starts it", some: "needs some gates" };

function Ends({ name }: { name: string }) {
  const editing = useEditView() !== null;
  return (
    <>
      <Handle
        type="target"
        position={Position.Left}
        className={editing ? "dock" : "hidden"}
        isConnectable={editing}
        aria-hidden
      />
      <Handle
        type="source"
        position={Position.Right}
        className={editing ? "dock" : "hidden"}
        isConnectable={editing}
        aria-hidden
        title={editing ? `Draw a gate from ${name}` : undefined}
      />
    </>
  );
}

const problemSigns = { error: "⨯", warning: "△", hint: "◌" };

/** That something is wrong with a step, that a try pauses before it, or how it differs from another version. */
function Flags({ address }: { address: string }) {
  const edit = useEditView();
  const problem = edit?.problems.get(address);
  const change = edit?.changes.get(address);
  return (
    <>
      {edit?.pauses.has(address) && (
        <span className="flag" title="The try pauses before this step">
          ‖
        </span>
      )}
      {change !== undefined && (
        <span className="flag" data-change={change}>
          {change}
        </span>
      )}
      {problem && (
        <span
          className="flag"
          data-problem={problem}
          role="img"
          aria-label={`has an ${problem}`}
          title={`It has ${problem === "error" ? "an error" : `a ${problem}`}; see Problems`}
        >
          {problemSigns[problem]}
        </span>
      )}
    </>
  );
}

/** A step without steps inside. */
export function StepBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const edit = useEditView();
  const { folded, fold } = useFolds();
  const status = view?.step(step.address);
  const note = [
    joinWords[step.join] ?? `needs ${step.join} gates`,
    status?.state === "held" ? (status.hold?.message ?? "held by its guard") : "",
    step.note ?? "",
    step.lane != null ? `lane ${step.lane}` : "",
  ]
    .filter((part) => part !== "")
    .join(" · ");
  return (
    <div
      className="step"
      data-state={status?.state}
      data-step={step.address}
      data-disabled={step.disabled}
      data-over={edit?.over === step.address}
      data-never={edit?.never.has(step.address)}
      data-chosen={edit ? edit.chosen.has(step.address) : status !== undefined && status.path === view?.chosen}
    >
      <Ends name={step.id} />
      <div className="top">
        <span>
          {step.guarded && <span title="A guard stands on its threshold">◇ </span>}
          {step.kind || "no kind"}
        </span>
        <Flags address={step.address} />
        {status && status.state !== "pending" && <StateMark state={status.state} />}
      </div>
      <div className="title" title={edit?.never.get(step.address) ?? step.title}>
        {step.title}
      </div>
      {view?.flip && (
        <button
          type="button"
          className="flip nodrag"
          title="Choose its outcome in the rehearsal"
          aria-label={`${step.id}: ${status?.state === "failed" ? "let it succeed" : "make it fail"}`}
          onClick={(e) => {
            e.stopPropagation();
            view.flip?.(step.address);
          }}
        >
          {status?.state === "failed" ? "✓ succeed" : "⨯ fail"}
        </button>
      )}
      {note !== "" && (
        <div className="note" title={note}>
          {note}
        </div>
      )}
      {folded.has(step.address) && (
        <button
          type="button"
          className="foldbutton inside nodrag"
          tabIndex={-1}
          aria-label={`Open ${step.id}`}
          title="Open"
          onClick={(e) => {
            e.stopPropagation();
            fold(step.address, false);
          }}
        >
          ▸ open
        </button>
      )}
    </div>
  );
}

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
        <span className="title">{step.title}</span>
        <span className="note">
          {step.kind} {step.note}
        </span>
        <Flags address={step.address} />
        {status && status.state !== "pending" && <StateMark state={status.state} />}
      </div>
      <Picks address={step.address} title={step.title} hidden={Number(status?.hidden ?? 0)} />
    </div>
  );
}
