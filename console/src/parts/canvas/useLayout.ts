import { useStore } from "@xyflow/react";
import { useEffect, useMemo, useRef, useState } from "react";
import type { ScopeGraph } from "../../core/api/types";
import { isBand } from "../../core/graph/bands";
import type { Box, Link } from "../../core/graph/flow";
import { layOut } from "../../core/graph/layout";
import type { Layout, Point } from "../../core/graph/places";
import type { Pane } from "../../core/graph/scopes";
import type { GateLinkEdge } from "./GateLink";
import type { StepBoxNode } from "./StepBox";

/**
 * The layout of a graph, computed again only when its shape has changed.
 * @param shape a text that differs exactly when the drawing has to be laid out again
 * @param headers the height of the heads of containers, in pixels
 * @param pane where it is seen; null while nobody knows
 * @param anew another number has it drawn anew, whatever was there
 * @param wishes where new steps were dropped
 */
export function useLayout(
  graph: ScopeGraph,
  shape: string,
  headers: number,
  pane: Pane | null,
  anew = 0,
  wishes?: ReadonlyMap<string, Point>,
): { laid: { shape: string; layout: Layout } | null; failed: string | null } {
  const [laid, setLaid] = useState<{ shape: string; layout: Layout } | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const latest = useRef(graph);
  latest.current = graph;
  const last = useRef<{ anew: number; scopes: Layout["scopes"] }>({ anew, scopes: undefined });
  useEffect(() => {
    if (pane === null) return;
    let wanted = true;
    const before = last.current.anew === anew ? last.current.scopes : undefined;
    layOut(latest.current, headers, { ...pane, before, wishes }).then(
      (layout) => {
        if (!wanted) return;
        last.current = { anew, scopes: layout.scopes };
        setLaid({ shape, layout });
        setFailed(null);
      },
      (e: unknown) => wanted && setFailed(String(e)),
    );
    return () => {
      wanted = false;
    };
  }, [shape, headers, pane, anew, wishes]);
  return { laid, failed };
}

/** In which steps the layout follows the size of the pane, in pixels: a drawing does not jump at every change of it. */
const paneStep = 160;

/** The pane that the drawing stands in, about; null before it has a size. */
export function usePane(): Pane | null {
  const size = useStore((s) => (s.width === 0 ? "" : [s.width, s.height].map(rounded).join(" ")));
  return useMemo(() => {
    const [width, height] = size.split(" ").map(Number);
    return width && height ? { width, height } : null;
  }, [size]);
}

const rounded = (pixels: number) => Math.max(3, Math.round(pixels / paneStep)) * paneStep;

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
