import { useEffect, useRef, useState } from "react";
import type { ScopeGraph } from "../../core/api/types";
import type { Link } from "../../core/graph/flow";
import { layOut, type Layout } from "../../core/graph/layout";
import type { GateLinkEdge } from "./GateLink";

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
      (layout) => wanted && setLaid({ shape, layout }),
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
