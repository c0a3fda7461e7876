import { Controls, ReactFlow, type NodeMouseHandler } from "@xyflow/react";
import { useMemo, useState } from "react";
import type { ChainGraph, ScopeGraph } from "../../core/api/types";
import { withFolded } from "../../core/designer/arrange";
import { isBand, withBands } from "../../core/graph/bands";
import { drawing } from "../../core/graph/flow";
import { CanvasContext, type CanvasView } from "./CanvasView";
import { BandBox } from "./BandBox";
import { FoldContext, type Folds } from "./folds";
import { GateLink } from "./GateLink";
import { GateMark } from "./GateMark";
import { ContainerBox, StepBox, type StepBoxNode } from "./StepBox";
import { gateEdges, headersOf, stepNode, useLayout } from "./useLayout";

const nodeTypes = { step: StepBox, container: ContainerBox, band: BandBox };
const edgeTypes = { gate: GateLink };

/** Draws a chain from its file; with a view, the state of a run on top. */
export function ChainCanvas({ graph, view }: { graph: ChainGraph; view: CanvasView | null }) {
  // Handlers that have not run are folded until somebody opens them: the flow has the room.
  const [asked, setAsked] = useState<ReadonlyMap<string, boolean>>(new Map());
  const bands = graph.handlers.map((h) => `@${h.occasion}`);
  const folded = bands.filter((b) => asked.get(b) ?? (view !== null && view.band(b) === undefined));
  const foldKey = folded.join();
  const folds = useMemo<Folds>(
    () => ({
      folded: new Set(foldKey === "" ? [] : foldKey.split(",")),
      fold: (address, fold) => setAsked((before) => new Map(before).set(address, fold)),
    }),
    [foldKey],
  );
  // A live run sends its graph again with every whole; the drawing is laid out again only when it differs.
  const shape = JSON.stringify(withFolded(withBands(graph, graph.handlers), folds.folded));
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
        ariaLabel: isBand(box.id) ? box.step.title : `${box.step.title}, ${box.step.kind}`,
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
        <FoldContext value={folds}>
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
        </FoldContext>
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
