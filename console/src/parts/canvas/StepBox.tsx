import { Handle, Position, type Node, type NodeProps } from "@xyflow/react";
import type { StepNode } from "../../core/api/types";
import { factInRun } from "../../core/runs/stepFact";
import { KindTile } from "../kinds/KindIcon";
import { useCanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { Flags } from "./Flags";
import { useFolds } from "./folds";

export type StepBoxNode = Node<{ step: StepNode }, "step" | "container" | "band">;

const joinWords: Record<string, string> = { all: "", any: "first gate starts it", some: "needs some gates" };

/** The places at a step's sides where gates begin and end. */
export function Ends({ name }: { name: string }) {
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

/** A step without steps inside: what it is, and the one thing that matters about it. */
export function StepBox({ data: { step } }: NodeProps<StepBoxNode>) {
  const view = useCanvasView();
  const edit = useEditView();
  const { folded, fold } = useFolds();
  const status = view?.step(step.address);
  const inRun = status && status.state !== "pending" ? factInRun(status, view?.flip !== undefined) : null;
  const note = [
    joinWords[step.join] ?? `needs ${step.join} gates`,
    step.note ?? edit?.fact(step.address) ?? "",
    step.lane != null ? `lane ${step.lane}` : "",
  ]
    .filter((part) => part !== "")
    .join(" · ");
  const fact = inRun ?? (note === "" ? null : { mark: null, text: note });
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
      <KindTile kind={step.kind} />
      <div className="words">
        <div className="title" title={edit?.never.get(step.address) ?? step.title}>
          {step.guarded && (
            <span className="guardmark" title="A guard stands on its threshold">
              ◇{" "}
            </span>
          )}
          {step.title}
        </div>
        {fact && (
          <div className="fact" title={inRun && note !== "" ? `${fact.text} · ${note}` : fact.text}>
            {fact.mark !== null && (
              <span className="mark" role="img" aria-label={status?.state}>
                {fact.mark}
              </span>
            )}{" "}
            {fact.text}
          </div>
        )}
      </div>
      <Flags address={step.address} />
      {status?.child != null && view?.open && (
        <button
          type="button"
          className="foldbutton inside nodrag"
          aria-label={`Open run ${String(status.child)} of ${step.id}`}
          title="What it calls, as it ran"
          onClick={(e) => {
            e.stopPropagation();
            view.open?.(status.child ?? 0);
          }}
        >
          ▸ run {status.child}
        </button>
      )}
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
