import { Controls, ReactFlow, type NodeMouseHandler } from "@xyflow/react";
import { useMemo } from "react";
import type { ScopeGraph } from "../../core/api/types";
import { drawing } from "../../core/graph/flow";
import { CanvasContext, type CanvasView } from "./CanvasView";
import { GateLink } from "./GateLink";
import { GateMark } from "./GateMark";
import { ContainerBox, StepBox, type StepBoxNode } from "./StepBox";
import { gateEdges, headersOf, stepNode, useLayout } from "./useLayout";

const nodeTypes = { step: StepBox, container: ContainerBox };
const edgeTypes = { gate: GateLink };

/** Draws a chain from its file; with a view, the state of a run on top. */
export function ChainCanvas({ graph, view }: { graph: ScopeGraph; view: CanvasView | null }) {
  // A live run sends its graph again with every whole; the drawing is laid out again only when it differs.
  const shape = JSON.stringify(graph);
  const steady = useMemo(() => JSON.parse(shape) as ScopeGraph, [shape]);
  const { laid, failed } = useLayout(steady, shape, headersOf(view));
  const layout = laid?.layout;
  const { nodes, edges } = useMemo(() => {
    if (!layout) return { nodes: [], edges: [] };
    const { boxes, links } = drawing(steady, layout.places, layout.routes);
    return {
      nodes: boxes.map((box): StepBoxNode => ({
        ...stepNode(box),
        draggable: false,
        connectable: false,
        ariaLabel: `${box.step.title}, ${box.step.kind}`,
      })),
      edges: gateEdges(links),
    };
  }, [steady, layout]);

  const choose = (address: string) => {
    const status = view?.step(address);
    if (status) view?.choose(status.path);
  };
  const onNodeClick: NodeMouseHandler<StepBoxNode> = (_, node) => choose(node.id);

  if (failed !== null)
    return <div className="empty">The drawing could not be laid out. The source below has everything.</div>;
  return (
    <div
      className="canvas"
      onKeyDown={(event) => {
        const id =
          event.key === "Enter" || event.key === " " ? (event.target as HTMLElement).getAttribute("data-id") : null;
        if (id !== null) choose(id);
      }}
    >
      <CanvasContext value={view}>
        {layout && (
          <ReactFlow
            nodes={nodes}
            edges={edges}
            nodeTypes={nodeTypes}
            edgeTypes={edgeTypes}
            onNodeClick={onNodeClick}
            fitView
            fitViewOptions={{ padding: 0.04, maxZoom: 1.1 }}
            minZoom={0.1}
            maxZoom={2}
            nodesConnectable={false}
            edgesFocusable={false}
            proOptions={{ hideAttribution: true }}
            aria-label="The chain as a drawing"
          >
            <Controls showInteractive={false} />
          </ReactFlow>
        )}
      </CanvasContext>
      {view && (
        <div className="legend">
          {(["open", "shut", "undecided"] as const).map((state) => (
            <span key={state}>
              <GateMark state={state} size={14} /> {state}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
