import type { ElkNode } from "elkjs/lib/elk-api";
import type { GateEdge, ScopeGraph, StepNode } from "../api/types";

export const stepWidth = 134;
export const stepHeight = 78;

export interface Place {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Places by step address, relative to the container. */
export type Places = ReadonlyMap<string, Place>;

export interface Point {
  x: number;
  y: number;
}

/**
 * The way of a gate's link around the steps between, relative to the container: Bézier curves from one end to the
 * other, and where the gate stands on it.
 */
export interface Route {
  points: readonly Point[];
  gate: Point;
}

/** Routes by link, as the drawing calls them. */
export type Routes = ReadonlyMap<string, Route>;

/** How wide a label is drawn, about. */
export const labelWidth = (label: string) => (label.length === 0 ? 20 : Math.min(label.length, 17) * 6 + 8);

const FEW = 40;

const common = {
  "elk.algorithm": "layered",
  "elk.direction": "RIGHT",
  "elk.spacing.nodeNode": "22",
  // A gate's label stands in a layer of its own, so this room is there twice between two steps.
  "elk.layered.spacing.nodeNodeBetweenLayers": "8",
  "elk.layered.spacing.edgeNodeBetweenLayers": "6",
  "elk.edgeLabels.placement": "CENTER",
  "elk.edgeRouting": "SPLINES",
  // All gates leave and reach a step in the middle of its side.
  "elk.layered.mergeEdges": "true",
  "elk.layered.considerModelOrder.strategy": "NODES_AND_EDGES",
};

/** The gates whose both ends are there: a draft may name steps that it has not, or not any more. */
export function joining<G extends GateEdge>(scope: { steps: readonly StepNode[]; gates: readonly G[] }): G[] {
  const ids = new Set(scope.steps.map((s) => s.id));
  return scope.gates.filter((g) => ids.has(g.from) && ids.has(g.to));
}

/** The graph as the layout engine wants it. Headers is the height that containers keep for their head. */
export function asElk(graph: ScopeGraph, headers: number, id = "root"): ElkNode {
  // Without it a container pushes the steps above it apart; for many steps it takes too long.
  const options =
    graph.steps.length > FEW ? common : { ...common, "elk.layered.compaction.postCompaction.strategy": "EDGE_LENGTH" };
  const edge = (prefix: string) => (gate: GateEdge) => ({
    id: `${prefix}#${String(gate.index)}`,
    sources: [`${prefix}/${gate.from}`],
    targets: [`${prefix}/${gate.to}`],
    labels: [
      {
        text: gate.label === "" ? "|" : gate.label,
        width: labelWidth(gate.label),
        height: 18,
        layoutOptions: { "elk.edgeLabels.inline": "true" },
      },
    ],
  });
  const node =
    (prefix: string) =>
    (step: StepNode): ElkNode => {
      const name = `${prefix}/${step.id}`;
      if (!step.inner) return { id: name, width: stepWidth, height: stepHeight };
      return {
        id: name,
        layoutOptions: {
          ...options,
          "elk.padding": `[top=${String(headers)},left=18,bottom=18,right=18]`,
          "elk.nodeSize.constraints": "MINIMUM_SIZE",
          "elk.nodeSize.minimum": "(260,120)",
        },
        children: step.inner.steps.map(node(name)),
        edges: joining(step.inner).map(edge(name)),
      };
    };
  return {
    id,
    layoutOptions: { ...options, "elk.padding": "[top=8,left=8,bottom=8,right=8]" },
    children: graph.steps.map(node(id)),
    edges: joining(graph).map(edge(id)),
  };
}

/** The places out of the layout engine's answer. */
export function placesOf(root: ElkNode): Places {
  const places = new Map<string, Place>();
  const visit = (node: ElkNode) => {
    for (const child of node.children ?? []) {
      places.set(child.id.slice(root.id.length + 1), {
        x: child.x ?? 0,
        y: child.y ?? 0,
        width: child.width ?? stepWidth,
        height: child.height ?? stepHeight,
      });
      visit(child);
    }
  };
  visit(root);
  return places;
}

/** The routes out of the layout engine's answer; a link without one is drawn straight. */
export function routesOf(root: ElkNode): Routes {
  const routes = new Map<string, Route>();
  const visit = (node: ElkNode) => {
    for (const edge of node.edges ?? []) {
      const [section] = edge.sections ?? [];
      const [label] = edge.labels ?? [];
      const bends = section?.bendPoints ?? [];
      // Curves have two points between each two ends.
      if (!section || label?.x === undefined || label.y === undefined || bends.length % 3 !== 2) continue;
      routes.set(edge.id.slice(root.id.length).replace(/^\//, ""), {
        points: [section.startPoint, ...bends, section.endPoint],
        gate: { x: label.x + (label.width ?? 0) / 2, y: label.y + (label.height ?? 0) / 2 },
      });
    }
    node.children?.forEach(visit);
  };
  visit(root);
  return routes;
}
