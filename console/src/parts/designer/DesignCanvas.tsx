import { Background, BackgroundVariant, Controls, MiniMap, ReactFlow, useReactFlow, useStore, type NodeChange, type OnConnectEnd } from "@xyflow/react";
import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useMemo, useRef, useState, type DragEvent } from "react";
import { boxesOf, placesOfScope, shapeOf, withFolded } from "../../core/designer/arrange";
import type { DesignState } from "../../core/designer/DesignStore";
import { addStep, connect, moveInto, place, scopeOf, whyNoGate } from "../../core/designer/operations";
import type { Box } from "../../core/graph/flow";
import type { Places } from "../../core/graph/elkGraph";
import { layOut } from "../../core/graph/layout";
import { CanvasContext, type CanvasView } from "../canvas/CanvasView";
import { EditContext, type EditView } from "../canvas/EditView";
import { GateLink, type GateLinkEdge } from "../canvas/GateLink";
import { ContainerBox, StepBox, type StepBoxNode } from "../canvas/StepBox";
import { useDesigning } from "./useDesign";

const nodeTypes = { step: StepBox, container: ContainerBox };
const edgeTypes = { gate: GateLink };

/** From how many steps on the drawing leaves out what is not in view. */
const MANY = 150;

interface Props {
  state: DesignState;
  view: CanvasView | null;
  edit: EditView;
  /** Told of every drawing: where things are. */
  drawn: (boxes: Box[]) => void;
  /** Asks for a step to be added behind another, at a point of the page. */
  ask: (after: string | null, scope: string) => void;
}

/** The drawing that one works on. */
export function DesignCanvas({ state, view, edit, drawn, ask }: Props) {
  const { store } = useDesigning();
  const flow = useReactFlow();
  const { design, selection, folded } = state;
  const headers = view ? 72 : 48;
  const graph = useMemo(() => withFolded(design.root, folded), [design, folded]);
  const shape = useMemo(() => shapeOf(graph), [graph]);
  const [laid, setLaid] = useState<{ shape: string; places: Places } | null>(null);
  const [dragged, setDragged] = useState<ReadonlyMap<string, { x: number; y: number }>>(new Map());
  const fitted = useRef(false);

  const latest = useRef(graph);
  latest.current = graph;
  useEffect(() => {
    let wanted = true;
    layOut(latest.current, headers).then(
      (places) => wanted && setLaid({ shape, places }),
      (e: unknown) => wanted && notifications.show({ color: "red", title: "The drawing could not be laid out", message: String(e) }),
    );
    return () => {
      wanted = false;
    };
  }, [shape, headers]);

  const { boxes, links } = useMemo(() => (laid ? boxesOf(graph, laid.places) : { boxes: [], links: [] }), [graph, laid]);
  useEffect(() => drawn(boxes), [boxes, drawn]);

  const chosen = useMemo(() => new Set(selection.steps), [selection]);
  const before = useRef(new Map<string, StepBoxNode>());
  const nodes = useMemo(() => {
    const next = new Map<string, StepBoxNode>();
    for (const box of boxes) {
      const at = dragged.get(box.id) ?? box;
      const node: StepBoxNode = {
        id: box.id, type: box.step.inner ? "container" : "step", position: { x: at.x, y: at.y }, parentId: box.parent ?? undefined, data: { step: box.step },
        width: box.width, height: box.height, selected: chosen.has(box.id), draggable: view === null, zIndex: box.step.inner ? 0 : 1, focusable: false,
        dragHandle: box.step.inner ? ".head" : undefined,
      };
      const old = before.current.get(box.id);
      next.set(box.id, old && same(old, node) ? old : node);
    }
    before.current = next;
    return [...next.values()];
  }, [boxes, chosen, dragged, view]);
  const edges = useMemo(
    () => links.map((link): GateLinkEdge => ({ id: link.id, type: "gate", source: link.source, target: link.target, data: { gate: link.gate, scope: link.scope }, focusable: false, selectable: false, zIndex: 1 })),
    [links],
  );

  // The whole drawing stays in view until somebody moves it; from then on only what is chosen is kept in sight.
  const moved = useRef(false);
  const seen = useRef({ x: 0, y: 0, zoom: 1 });
  useEffect(() => {
    if (boxes.length === 0) return;
    const first = !fitted.current;
    fitted.current = true;
    requestAnimationFrame(() => {
      if (first || !moved.current) void flow.fitView({ padding: 0.1, maxZoom: 1.1, duration: first ? 0 : 150 });
      else keepInSight(flow, boxes, store.state.selection.steps[0]);
    });
  }, [boxes, flow, store]);

  const onNodesChange = useCallback(
    (changes: NodeChange<StepBoxNode>[]) => {
      const picks = changes.filter((c) => c.type === "select");
      if (picks.length > 0 && !store.state.picking) {
        const now = new Set(store.state.selection.steps);
        for (const c of picks) {
          if (c.selected) now.add(c.id);
          else now.delete(c.id);
        }
        store.select({ steps: [...now], gate: now.size > 0 ? null : store.state.selection.gate });
      }
      const moves = changes.filter((c) => c.type === "position");
      if (moves.some((c) => c.dragging)) setDragged((all) => new Map([...all, ...moves.flatMap((c): [string, { x: number; y: number }][] => (c.position ? [[c.id, c.position]] : []))]));
    },
    [store],
  );

  const scopeAt = (point: { x: number; y: number }, except: readonly string[]) => {
    const inside = boxes.filter((b) => b.step.inner && !except.some((e) => b.id === e || b.id.startsWith(`${e}/`))).filter((b) => {
      const at = absolute(boxes, b);
      return point.x > at.x && point.x < at.x + b.width && point.y > at.y && point.y < at.y + b.height;
    });
    return inside.sort((a, b) => b.id.length - a.id.length)[0]?.id ?? "";
  };

  const onNodeDragStop = (_: unknown, node: StepBoxNode, all: StepBoxNode[]) => {
    const moved = new Map(all.map((n) => [n.id, n.position]));
    const box = boxes.find((b) => b.id === node.id);
    setDragged(new Map());
    if (!box) return;
    const parent = boxes.find((b) => b.id === box.parent);
    const origin = parent ? absolute(boxes, parent) : { x: 0, y: 0 };
    const centre = { x: origin.x + node.position.x + box.width / 2, y: origin.y + node.position.y + (box.step.inner ? 12 : box.height / 2) };
    const scope = scopeAt(centre, [...moved.keys()]);
    if (scope !== scopeOf(node.id)) {
      store.apply(moveInto(design, [...moved.keys()], scope));
      return;
    }
    if (Math.abs(node.position.x - box.x) + Math.abs(node.position.y - box.y) < 4) return;
    const places = placesOfScope(boxes, scope);
    for (const [id, at] of moved) if (scopeOf(id) === scope) places.set(id, [Math.max(0, at.x), Math.max(scope === "" ? -1e6 : headers, at.y)]);
    store.apply(place(design, places));
  };

  /** What a kind that is dragged would be put into or behind. */
  const [over, setOver] = useState<string | null>(null);
  const targetAt = (event: DragEvent) => {
    const point = flow.screenToFlowPosition({ x: event.clientX, y: event.clientY });
    const scope = scopeAt(point, []);
    const home = boxes.find((b) => b.id === scope);
    const origin = home ? absolute(boxes, home) : { x: 0, y: 0 };
    const inScope = boxes.filter((b) => (b.parent ?? "") === scope);
    // Onto a step: behind it.
    const onto = inScope.find((b) => point.x - origin.x > b.x && point.x - origin.x < b.x + b.width && point.y - origin.y > b.y && point.y - origin.y < b.y + b.height);
    return { point, scope, origin, inScope, onto };
  };
  const onDragOver = (event: DragEvent) => {
    event.preventDefault();
    event.dataTransfer.dropEffect = "copy";
    const { onto, scope } = targetAt(event);
    setOver(onto?.id ?? (scope === "" ? null : scope));
  };
  const onDrop = (event: DragEvent) => {
    setOver(null);
    const kind = event.dataTransfer.getData("application/x-gatechain-kind");
    if (kind === "") return;
    event.preventDefault();
    const { point, scope, origin, inScope, onto } = targetAt(event);
    const byHand = inScope.some((b) => design.placed.has(b.id));
    store.apply(addStep(design, scope, kind, onto?.step.id ?? null, byHand ? [point.x - origin.x - 70, point.y - origin.y - 39] : null));
    (document.querySelector(".designcanvas") as HTMLElement | null)?.focus();
  };

  const onConnectEnd: OnConnectEnd = (_, connection) => {
    if (connection.toNode || !connection.fromNode || connection.isValid) return;
    ask(connection.fromNode.id, scopeOf(connection.fromNode.id));
  };

  const zoomedOut = useStore((s) => s.transform[2] < 0.4);
  const far = zoomedOut && nodes.length > MANY;
  const shown = useMemo(() => (over === null && !far ? edit : { ...edit, far, over: over ?? undefined }), [edit, over, far]);
  return (
    <CanvasContext value={view}>
      <EditContext value={shown}>
        <ReactFlow
          className={far ? "far" : undefined}
          nodes={nodes} edges={edges} nodeTypes={nodeTypes} edgeTypes={edgeTypes} onNodesChange={onNodesChange} onNodeDragStop={onNodeDragStop}
          onNodeClick={(_, node) => {
            if (store.tookStep(node.id)) return;
            const status = view?.step(node.id);
            if (status) view?.choose(status.path);
          }}
          onNodeDoubleClick={(_, node) => store.select({ steps: [node.id], gate: null }, true)}
          onMoveStart={(_, v) => (seen.current = v)}
          onMove={(event, v) => { if (event && (Math.abs(v.x - seen.current.x) + Math.abs(v.y - seen.current.y) > 2 || v.zoom !== seen.current.zoom)) moved.current = true; }}
          onPaneClick={() => { if (store.state.picking) store.pickStep(null); else store.select({ steps: [], gate: null }); }}
          onConnect={(c) => {
            const why = whyNoGate(design, c.source, c.target);
            if (why === null) store.apply(connect(design, c.source, c.target));
            else notifications.show({ title: "No gate was drawn", message: why, autoClose: 8_000 });
          }}
          onConnectEnd={onConnectEnd}
          onDragOver={onDragOver} onDragLeave={() => setOver(null)} onDrop={onDrop}
          selectionKeyCode="Shift" multiSelectionKeyCode={["Control", "Meta"]} deleteKeyCode={null} disableKeyboardA11y nodesFocusable={false} edgesFocusable={false}
          nodesConnectable={view === null} connectionRadius={26} minZoom={0.05} maxZoom={2} nodeDragThreshold={3} onlyRenderVisibleElements={nodes.length > MANY && !zoomedOut}
          zoomOnDoubleClick={false} proOptions={{ hideAttribution: true }} aria-label="The chain as a drawing"
        >
          <Background variant={BackgroundVariant.Dots} gap={24} size={1} />
          <Controls showInteractive={false} aria-label="Zoom" />
          {nodes.length > 20 && <MiniMap pannable zoomable ariaLabel="The whole chain, small" nodeClassName={(n) => (chosen.has(n.id) ? "chosen" : "")} />}
        </ReactFlow>
      </EditContext>
    </CanvasContext>
  );
}

function keepInSight(flow: ReturnType<typeof useReactFlow>, boxes: readonly Box[], address: string | undefined) {
  const box = boxes.find((b) => b.id === address);
  const pane = document.querySelector(".designcanvas")?.getBoundingClientRect();
  if (!box || !pane) return;
  const at = absolute(boxes, box);
  const from = flow.flowToScreenPosition(at);
  const to = flow.flowToScreenPosition({ x: at.x + box.width, y: at.y + box.height });
  if (from.x < pane.left || from.y < pane.top || to.x > pane.right || to.y > pane.bottom) void flow.setCenter(at.x + box.width / 2, at.y + box.height / 2, { zoom: flow.getZoom(), duration: 150 });
}

function same(a: StepBoxNode, b: StepBoxNode): boolean {
  return a.position.x === b.position.x && a.position.y === b.position.y && a.width === b.width && a.height === b.height && a.selected === b.selected && a.parentId === b.parentId && a.type === b.type && a.draggable === b.draggable
    && JSON.stringify({ ...a.data.step, inner: null, from: 0, to: 0, path: 0 }) === JSON.stringify({ ...b.data.step, inner: null, from: 0, to: 0, path: 0 });
}

function absolute(boxes: readonly Box[], box: Box): { x: number; y: number } {
  const parent = boxes.find((b) => b.id === box.parent);
  if (!parent) return { x: box.x, y: box.y };
  const at = absolute(boxes, parent);
  return { x: at.x + box.x, y: at.y + box.y };
}
