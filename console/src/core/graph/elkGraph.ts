import type { ElkNode } from "elkjs/lib/elk-api";
import type { GateEdge } from "../api/types";
import {
  labelWidth,
  linkId,
  stepHeight,
  stepWidth,
  type FlatScope,
  type Layout,
  type Place,
  type Route,
} from "./places";

const options = {
  "elk.algorithm": "layered",
  "elk.direction": "RIGHT",
  "elk.spacing.nodeNode": "26",
  // A gate's label stands in a layer of its own, so this room is there twice between two steps.
  "elk.layered.spacing.nodeNodeBetweenLayers": "10",
  "elk.layered.spacing.edgeNodeBetweenLayers": "8",
  "elk.edgeLabels.placement": "CENTER",
  "elk.edgeRouting": "SPLINES",
  // All gates leave and reach a step in the middle of its side.
  "elk.layered.mergeEdges": "true",
  "elk.layered.considerModelOrder.strategy": "NODES_AND_EDGES",
  // A container does not push the steps above it apart.
  "elk.layered.compaction.postCompaction.strategy": "LEFT",
};

/** A scope as the layout engine wants it. */
export function asElk(scope: FlatScope): ElkNode {
  const edge = (gate: GateEdge) => ({
    id: String(gate.index),
    sources: [gate.from],
    targets: [gate.to],
    labels: [
      {
        text: gate.label === "" ? "|" : gate.label,
        width: labelWidth(gate.label),
        // The words stand below the bar; the bar stays on the link.
        height: gate.label === "" ? 18 : 54,
        layoutOptions: { "elk.edgeLabels.inline": "true" },
      },
    ],
  });
  return {
    id: "root",
    layoutOptions: options,
    children: scope.steps.map(({ id, width, height }) => ({ id, width, height })),
    edges: scope.gates.map(edge),
  };
}

/** The places and routes out of the layout engine's answer; a link without a route is drawn straight. */
export function layoutOf(scope: FlatScope, root: ElkNode): Layout {
  const places = new Map<string, Place>();
  const addresses = new Map(scope.steps.map((s) => [s.id, s.address]));
  for (const child of root.children ?? [])
    places.set(addresses.get(child.id) ?? child.id, {
      x: child.x ?? 0,
      y: child.y ?? 0,
      width: child.width ?? stepWidth,
      height: child.height ?? stepHeight,
    });
  const routes = new Map<string, Route>();
  for (const edge of root.edges ?? []) {
    const [section] = edge.sections ?? [];
    const [label] = edge.labels ?? [];
    const bends = section?.bendPoints ?? [];
    // Curves have two points between each two ends.
    if (!section || label?.x === undefined || label.y === undefined || bends.length % 3 !== 2) continue;
    routes.set(linkId(scope.address, Number(edge.id)), {
      points: [section.startPoint, ...bends, section.endPoint],
      gate: { x: label.x + (label.width ?? 0) / 2, y: label.y + (label.height ?? 0) / 2 },
    });
  }
  return { places, routes };
}
