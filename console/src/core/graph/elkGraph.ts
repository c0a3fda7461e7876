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

/** How wide a label is drawn, about. */
export const labelWidth = (label: string) => (label.length === 0 ? 20 : Math.min(label.length, 18) * 5.9 + 10);

const FEW = 40;

const common = {
  "elk.algorithm": "layered",
  "elk.direction": "RIGHT",
  "elk.spacing.nodeNode": "22",
  // A gate's label stands in a layer of its own, so this room is there twice between two steps.
  "elk.layered.spacing.nodeNodeBetweenLayers": "11",
  "elk.layered.spacing.edgeNodeBetweenLayers": "8",
  "elk.edgeLabels.placement": "CENTER",
  "elk.layered.considerModelOrder.strategy": "NODES_AND_EDGES",
};

/** The graph as the layout engine wants it. Headers is the height that containers keep for their head. */
export function asElk(graph: ScopeGraph, headers: number, id = "root"): ElkNode {
  // Without it a container pushes the steps above it apart; for many steps it takes too long.
  const options = graph.steps.length > FEW ? common : { ...common, "elk.layered.compaction.postCompaction.strategy": "EDGE_LENGTH" };
  const edge = (prefix: string) => (gate: GateEdge) => ({
    id: `${prefix}#${String(gate.index)}`,
    sources: [`${prefix}/${gate.from}`],
    targets: [`${prefix}/${gate.to}`],
    labels: [{ text: gate.label, width: labelWidth(gate.label), height: 18 }],
  });
  const node = (prefix: string) => (step: StepNode): ElkNode => {
    const name = `${prefix}/${step.id}`;
    if (!step.inner) return { id: name, width: stepWidth, height: stepHeight };
    return {
      id: name,
      layoutOptions: { ...options, "elk.padding": `[top=${String(headers)},left=18,bottom=18,right=18]`, "elk.nodeSize.constraints": "MINIMUM_SIZE", "elk.nodeSize.minimum": "(260,120)" },
      children: step.inner.steps.map(node(name)),
      edges: step.inner.gates.map(edge(name)),
    };
  };
  return { id, layoutOptions: { ...options, "elk.padding": "[top=8,left=8,bottom=8,right=8]" }, children: graph.steps.map(node(id)), edges: graph.gates.map(edge(id)) };
}

/** The places out of the layout engine's answer. */
export function placesOf(root: ElkNode): Places {
  const places = new Map<string, Place>();
  const visit = (node: ElkNode) => {
    for (const child of node.children ?? []) {
      places.set(child.id.slice(root.id.length + 1), { x: child.x ?? 0, y: child.y ?? 0, width: child.width ?? stepWidth, height: child.height ?? stepHeight });
      visit(child);
    }
  };
  visit(root);
  return places;
}
