import { useEffect, useRef, useState } from "react";
import type { ScopeGraph } from "../../core/api/types";
import { isBand } from "../../core/graph/bands";
import type { Box, Link } from "../../core/graph/flow";
import { layOut, type Layout } from "../../core/graph/layout";
import type { GateLinkEdge } from "./GateLink";
import type { StepBoxNode } from "./StepBox";

/**
 * The layout of a graph, computed again only when its shape has changed.
 * @param shape a text that differs exactly when the drawing has to be laid out again
 * @param headers the height of the heads of containers, in pixels
 */
export function useLayout(
  graph: ScopeGraph,
  shape: string,
  headers: number,
): { laid: { shape: string; layout: Layout } | null; failed: string | null } {
  const [laid, setLaid] = useState<{ shape: string; layout: Layout } | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const latest = useRef(graph);
  latest.current = graph;
  useEffect(() => {
    let wanted = true;
    layOut(latest.current, headers).then(
      (layout) => {
        if (!wanted) return;
        setLaid({ shape, layout });
        setFailed(null);
      },
      (e: unknown) => wanted && setFailed(String(e)),
    );
    return () => {
      wanted = false;
    };
  }, [shape, headers]);
  return { laid, failed };
}

/** How tall the heads of containers are: with a run's state, the row of iterations needs room in them. */
export const headersOf = (view: unknown) => (view ? 72 : 48);

/** What every drawing of a step has in common; where it may be dragged or chosen is for the drawing to add. */
export const stepNode = (box: Box): StepBoxNode => ({
  id: box.id,
  type: isBand(box.id) ? "band" : box.step.inner ? "container" : "step",
  position: { x: box.x, y: box.y },
  parentId: box.parent ?? undefined,
  data: { step: box.step },
  width: box.width,
  height: box.height,
  zIndex: box.step.inner ? 0 : 1,
  // A band can't be dragged nor selected like a step, but it is clicked.
  style: isBand(box.id) ? { pointerEvents: "all" } : undefined,
});

export const gateEdges = (links: readonly Link[]): GateLinkEdge[] =>
  links.map((link) => ({
    id: link.id,
    type: "gate",
    source: link.source,
    target: link.target,
    data: { gate: link.gate, scope: link.scope, route: link.route },
    focusable: false,
    selectable: false,
    zIndex: 1,
  }));
