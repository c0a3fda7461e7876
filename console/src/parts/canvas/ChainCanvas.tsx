import { Controls, ReactFlow, ReactFlowProvider, useReactFlow, useStore, type NodeMouseHandler } from "@xyflow/react";
import { useLayoutEffect, useMemo, useRef, useState } from "react";
import type { ChainGraph, ScopeGraph } from "../../core/api/types";
import { containerHead } from "../../core/graph/places";
import { absolutePlaces, boxAt, withFolded } from "../../core/designer/arrange";
import { addressOf } from "../../core/stepPath";
import { isBand, withBands } from "../../core/graph/bands";
import { drawing, type Box } from "../../core/graph/flow";
import { CanvasContext, type CanvasView } from "./CanvasView";
import { BandBox } from "./BandBox";
import type { EditView } from "./EditView";
import { FarDrawing } from "./FarDrawing";
import { AFAR, MANY } from "./far";
import { SmallMap } from "./SmallMap";
import { useSight } from "./useSight";
import { FoldContext, type Folds } from "./folds";
import { GateLink } from "./GateLink";
import { GateMark } from "./GateMark";
import { ContainerBox } from "./ContainerBox";
import { StepBox, type StepBoxNode } from "./StepBox";
import { gateEdges, stepNode, useLayout, usePane } from "./useLayout";

const nodeTypes = { step: StepBox, container: ContainerBox, band: BandBox };
const edgeTypes = { gate: GateLink };

const onlyLookedAt: EditView = {
  chosen: new Set(),
  chosenGate: null,
  chosenBand: null,
  problems: new Map(),
  chooseGate: () => undefined,
  pauses: new Set(),
  never: new Map(),
  changes: new Map(),
  fact: () => null,
};

/** Draws a chain from its file; with a view, the state of a run on top. */
export const ChainCanvas = (props: { graph: ChainGraph; view: CanvasView | null }) => (
  <ReactFlowProvider>
    <Drawing {...props} />
  </ReactFlowProvider>
);

/** The step that needs a look: the chosen one, else what failed, waits for a person, or runs. */
function worstOf(boxes: readonly Box[], view: CanvasView): string | undefined {
  const steps = boxes.filter((b) => !b.step.inner && !isBand(b.id));
  const found = (has: (state: string | undefined, path: string | undefined) => boolean) =>
    steps.find((b) => has(view.step(b.id)?.state, view.step(b.id)?.path))?.id;
  return (
    found((_, path) => path !== undefined && path === view.chosen) ??
    found((state) => state === "failed") ??
    found((state) => state === "paused" || state === "held" || state === "lost") ??
    found((state) => state === "running")
  );
}

function Drawing({ graph, view }: { graph: ChainGraph; view: CanvasView | null }) {
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
  const shape = useMemo(
    () => JSON.stringify(withFolded(withBands(graph, graph.handlers), folds.folded)),
    [graph, folds],
  );
  const steady = useMemo(() => JSON.parse(shape) as ScopeGraph, [shape]);
  const { laid, failed } = useLayout(steady, shape, containerHead, usePane());
  const layout = laid?.layout;
  const { boxes, links } = useMemo(
    () => (layout ? drawing(steady, layout.places, layout.routes) : { boxes: [], links: [] }),
    [steady, layout],
  );
  const many = boxes.length > MANY;
  // Until the whole is in sight nobody knows from how far it is seen.
  const [inSight, setInSight] = useState(false);
  const zoomedOut = useStore((s) => s.transform[2] < AFAR);
  const far = many && (zoomedOut || !inSight);
  const places = useMemo(() => absolutePlaces(boxes), [boxes]);
  const { nodes, edges } = useMemo(() => {
    if (far) return { nodes: [], edges: [] };
    return {
      nodes: boxes.map((box): StepBoxNode => ({
        ...stepNode(box),
        draggable: false,
        connectable: false,
        ariaLabel: isBand(box.id) ? box.step.title : `${box.step.title}, ${box.step.kind}`,
      })),
      edges: gateEdges(links),
    };
  }, [boxes, links, far]);

  // The whole drawing is in sight until somebody moves it.
  const sight = useSight();
  const sized = useStore((s) => s.width > 0);
  const fitted = useRef<unknown>(null);
  useLayoutEffect(() => {
    if (boxes.length === 0 || !sized || fitted.current === layout) return;
    fitted.current = layout;
    sight.first(boxes, view ? worstOf(boxes, view) : undefined);
    setInSight(true);
    // Where one looks first is asked once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [boxes, sized, layout, sight]);
  const chosen = view?.chosen == null ? null : addressOf(view.chosen);
  const farEdit = useMemo(
    (): EditView => ({ ...onlyLookedAt, chosen: new Set(chosen === null ? [] : [chosen]) }),
    [chosen],
  );
  const flow = useReactFlow();
  const pointedAt = (event: { clientX: number; clientY: number }) =>
    boxAt(boxes, places, flow.screenToFlowPosition({ x: event.clientX, y: event.clientY }));
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
          <ReactFlow
            nodes={nodes}
            edges={edges}
            nodeTypes={nodeTypes}
            edgeTypes={edgeTypes}
            onNodeClick={onNodeClick}
            onPaneClick={(event) => {
              const box = far ? pointedAt(event) : undefined;
              if (box) choose(box.id);
            }}
            onlyRenderVisibleElements={many}
            panOnScroll
            zoomActivationKeyCode={["Control", "Meta"]}
            minZoom={0.05}
            maxZoom={2}
            nodesConnectable={false}
            edgesFocusable={false}
            proOptions={{ hideAttribution: true }}
            aria-label="The chain as a drawing"
          >
            {far && <FarDrawing boxes={boxes} links={links} view={view} edit={farEdit} />}
            <Controls showInteractive={false} aria-label="Zoom" onFitView={() => sight.all(boxes)} />
            <SmallMap chosen={chosen === null ? [] : [chosen]} />
          </ReactFlow>
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
