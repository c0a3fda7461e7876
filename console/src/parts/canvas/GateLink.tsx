import { HoverCard } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { BaseEdge, EdgeLabelRenderer, getBezierPath, type Edge, type EdgeProps } from "@xyflow/react";
import type { GateEdge } from "../../core/api/types";
import { useCanvasView, type CanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { GateMark } from "./GateMark";

export type GateLinkEdge = Edge<{ gate: GateEdge; scope: string }, "gate">;

// The pattern of the line tells the outcomes before any colour does.
const patterns: Record<string, string> = { success: "none", failure: "7 5", completion: "12 4 2 4", always: "2 4", skipped: "1 5" };

/** A link with its gate in the middle and the condition in words below it. */
export function GateLink({ id, sourceX, sourceY, targetX, targetY, sourcePosition, targetPosition, data }: EdgeProps<GateLinkEdge>) {
  const view = useCanvasView();
  const edit = useEditView();
  const [path, x, y] = getBezierPath({ sourceX, sourceY, targetX, targetY, sourcePosition, targetPosition, curvature: 0.32 });
  if (!data) return null;
  const status = view?.gate(data.scope, data.gate.index);
  const state = view ? (status?.state ?? "undecided") : "drawn";
  return (
    <>
      <BaseEdge id={id} path={path} interactionWidth={0} style={{ strokeDasharray: patterns[data.gate.on] ?? "5 3 1 3" }} />
      <EdgeLabelRenderer>
        <div className="gate nodrag nopan" data-chosen={edit?.chosenGate?.scope === data.scope && edit.chosenGate.index === data.gate.index} data-problem={edit?.problems.get(`${data.scope}#${String(data.gate.index)}`)} data-change={edit?.changes.get(`${data.scope}#${String(data.gate.index)}`)} data-gate={`${data.gate.from}-${data.gate.to}`} data-gate-state={state} style={{ transform: `translate(-50%, -9px) translate(${String(x)}px, ${String(y)}px)` }}>
          {edit && !view ? (
            <button type="button" className="gatebutton" style={{ cursor: "pointer" }} aria-label={`Gate from ${data.gate.from} to ${data.gate.to}${data.gate.label === "" ? "" : `, ${data.gate.label}`}`} onClick={() => edit.chooseGate(data.scope, data.gate.index)}>
              <GateMark state={state} />
            </button>
          ) : view ? (
            <HoverCard width={320} shadow="md" openDelay={150} withinPortal>
              <HoverCard.Target>
                <button type="button" className="gatebutton" aria-label={`Why the gate from ${data.gate.from} to ${data.gate.to} is ${state}`}>
                  <GateMark state={state} inError={status?.inError} />
                </button>
              </HoverCard.Target>
              <HoverCard.Dropdown>
                <GateWhy view={view} gate={data.gate} scope={data.scope} state={state} />
              </HoverCard.Dropdown>
            </HoverCard>
          ) : (
            <GateMark state={state} />
          )}
          {data.gate.label !== "" && (
            <span className="label" title={data.gate.label}>
              {data.gate.label}
            </span>
          )}
        </div>
      </EdgeLabelRenderer>
    </>
  );
}

function GateWhy({ view, gate, scope, state }: { view: CanvasView; gate: GateEdge; scope: string; state: string }) {
  const { data, error } = useQuery({ queryKey: ["gate", scope, gate.index, state, view.gateKey], queryFn: () => view.gateWhy({ scope, from: gate.from, to: gate.to, label: gate.label }), gcTime: 0 });
  return <span className="small">{error?.message ?? data ?? "…"}</span>;
}
