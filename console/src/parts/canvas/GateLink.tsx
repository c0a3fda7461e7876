import { HoverCard } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { BaseEdge, EdgeLabelRenderer, getBezierPath, type Edge, type EdgeProps } from "@xyflow/react";
import type { GateEdge } from "../../core/api/types";
import type { Point, Route } from "../../core/graph/places";
import { useCanvasView, type CanvasView } from "./CanvasView";
import { useEditView } from "./EditView";
import { GateMark } from "./GateMark";
import { keys } from "../../queries/keys";

export type GateLinkEdge = Edge<{ gate: GateEdge; scope: string; route?: Route }, "gate">;

// The pattern of the line tells the outcomes before any colour does.
const patterns: Record<string, string> = {
  success: "none",
  failure: "7 5",
  completion: "12 4 2 4",
  always: "2 4",
  skipped: "1 5",
};

/** A link with its gate in the middle and the condition in words below it. */
export function GateLink({
  id,
  sourceX,
  sourceY,
  targetX,
  targetY,
  sourcePosition,
  targetPosition,
  data,
}: EdgeProps<GateLinkEdge>) {
  const view = useCanvasView();
  const edit = useEditView();
  const [path, x, y] =
    along(data?.route, { x: sourceX, y: sourceY }, { x: targetX, y: targetY }) ??
    getBezierPath({ sourceX, sourceY, targetX, targetY, sourcePosition, targetPosition, curvature: 0.32 });
  if (!data) return null;
  const status = view?.gate(data.scope, data.gate.index);
  const state = view ? (status?.state ?? "undecided") : "drawn";
  return (
    <>
      <BaseEdge
        id={id}
        path={path}
        interactionWidth={0}
        style={{ strokeDasharray: patterns[data.gate.on] ?? "5 3 1 3" }}
      />
      <EdgeLabelRenderer>
        <div
          className="gate nodrag nopan"
          data-over={edit?.over === id}
          data-chosen={edit?.chosenGate?.scope === data.scope && edit.chosenGate.index === data.gate.index}
          data-problem={edit?.problems.get(`${data.scope}#${String(data.gate.index)}`)}
          data-change={edit?.changes.get(`${data.scope}#${String(data.gate.index)}`)}
          data-gate={`${data.gate.from}-${data.gate.to}`}
          data-gate-state={state}
          style={{ transform: `translate(-50%, -9px) translate(${String(x)}px, ${String(y)}px)` }}
        >
          {edit && !view ? (
            <button
              type="button"
              className="gatebutton"
              style={{ cursor: "pointer" }}
              aria-label={`Gate from ${data.gate.from} to ${data.gate.to}${data.gate.label === "" ? "" : `, ${data.gate.label}`}`}
              onClick={() => edit.chooseGate(data.scope, data.gate.index)}
            >
              <GateMark state={state} />
            </button>
          ) : view ? (
            <HoverCard width={320} shadow="md" openDelay={150} withinPortal>
              <HoverCard.Target>
                <button
                  type="button"
                  className="gatebutton"
                  aria-label={`Why the gate from ${data.gate.from} to ${data.gate.to} is ${state}`}
                >
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

// How far a step may have been moved until its links leave the way that was laid out for them.
const NEAR = 14;

/** The link's own way, as long as its ends are where they were when it was laid out. */
function along(route: Route | undefined, from: Point, to: Point): [string, number, number] | undefined {
  const [start, end] = [route?.points[0], route?.points.at(-1)];
  if (!route || !start || !end) return undefined;
  const near = (a: Point, b: Point) => Math.abs(a.x - b.x) <= NEAR && Math.abs(a.y - b.y) <= NEAR;
  if (!near(start, from) || !near(end, to)) return undefined;
  const between = route.points.slice(1, -1);
  return [
    route.corners === true ? bent([from, ...between, to]) : curved(from, between, to),
    route.gate.x,
    route.gate.y,
  ];
}

const at = ({ x, y }: Point) => `${String(x)} ${String(y)}`;

const curved = (from: Point, between: readonly Point[], to: Point) =>
  `M${at(from)}C${[...between, to].map(at).join(" ")}`;

/** Straight lines with round corners. */
function bent(points: readonly Point[]): string {
  const parts = points.map((p, i) => {
    const [before, after] = [points[i - 1], points[i + 1]];
    if (!before) return `M${at(p)}`;
    if (!after) return `L${at(p)}`;
    const toward = (other: Point) => {
      const far = Math.hypot(other.x - p.x, other.y - p.y);
      const near = Math.min(9, far / 2);
      return far === 0 ? p : { x: p.x + ((other.x - p.x) * near) / far, y: p.y + ((other.y - p.y) * near) / far };
    };
    return `L${at(toward(before))}Q${at(p)} ${at(toward(after))}`;
  });
  return parts.join("");
}

function GateWhy({ view, gate, scope, state }: { view: CanvasView; gate: GateEdge; scope: string; state: string }) {
  const { data, error } = useQuery({
    queryKey: keys.gate(scope, gate.index, state, view.gateKey),
    queryFn: () => view.gateWhy({ scope, from: gate.from, to: gate.to, label: gate.label }),
    gcTime: 0,
  });
  return <span className="small">{error?.message ?? data ?? "…"}</span>;
}
