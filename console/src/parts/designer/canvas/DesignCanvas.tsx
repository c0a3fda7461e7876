import {
  Background,
  BackgroundVariant,
  Controls,
  ReactFlow,
  useReactFlow,
  useStore,
  type NodeChange,
  type OnConnectEnd,
} from "@xyflow/react";
import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, type MouseEvent } from "react";
import {
  absolutePlaces,
  boxAt,
  boxesOf,
  placesOfScope,
  shapeOf,
  wholeOf,
  withFolded,
} from "../../../core/designer/arrange";
import type { DesignState } from "../../../core/designer/DesignStore";
import { linkAt, scopeAt } from "../../../core/designer/drops";
import { connect, gatesLost, moveInto, place, putBetween, whyNoGate } from "../../../core/designer/operations";
import { isBand } from "../../../core/graph/bands";
import type { Box } from "../../../core/graph/flow";
import { BandBox } from "../../canvas/BandBox";
import { FoldContext } from "../../canvas/folds";
import { CanvasContext, type CanvasView } from "../../canvas/CanvasView";
import { EditContext, type EditView } from "../../canvas/EditView";
import { AFAR, MANY } from "../../canvas/far";
import { FarDrawing } from "../../canvas/FarDrawing";
import { GateLink } from "../../canvas/GateLink";
import { SmallMap } from "../../canvas/SmallMap";
import { ContainerBox } from "../../canvas/ContainerBox";
import { StepBox, type StepBoxNode } from "../../canvas/StepBox";
import { containerHead } from "../../../core/graph/places";
import { gateEdges, stepNode, useLayout, usePane } from "../../canvas/useLayout";
import { useDesigning } from "../useDesign";
import { docks, same } from "./nodes";
import { useDrops } from "./useDrops";
import { useSight } from "../../canvas/useSight";
import { scopeOf } from "../../../core/stepPath";

const nodeTypes = { step: StepBox, container: ContainerBox, band: BandBox };
const edgeTypes = { gate: GateLink };

interface Props {
  state: DesignState;
  view: CanvasView | null;
  edit: EditView;
  /** Told of every drawing: where things are. */
  drawn: (boxes: Box[]) => void;
  /** Asks for a step to be added behind another, at a point of the page. */
  ask: (after: string | null, scope: string) => void;
  /** Opens the menu of what is chosen; null where nothing can be changed. */
  menu: ((at: { x: number; y: number }) => void) | null;
}

/** Whether a click adds to what is chosen. */
const isMore = (event: Pick<MouseEvent, "ctrlKey" | "metaKey" | "shiftKey">) =>
  event.ctrlKey || event.metaKey || event.shiftKey;

/** The drawing that one works on. */
export function DesignCanvas({ state, view, edit, drawn, ask, menu }: Props) {
  const { store } = useDesigning();
  const flow = useReactFlow();
  const sight = useSight();
  const { design, selection, folded } = state;
  const headers = containerHead;
  const graph = useMemo(() => withFolded(wholeOf(design), folded), [design, folded]);
  const shape = useMemo(() => shapeOf(graph), [graph]);
  /** Where steps were dropped that the layout does not know yet. */
  const [wishes] = useState(() => new Map<string, { x: number; y: number }>());
  const { laid, failed } = useLayout(graph, shape, headers, usePane(), state.anew, wishes);
  const [dragged, setDragged] = useState<ReadonlyMap<string, { x: number; y: number }>>(new Map());
  const [fitted, setFitted] = useState(false);

  useEffect(() => {
    if (failed !== null)
      notifications.show({ color: "red", title: "The drawing could not be laid out", message: failed });
  }, [failed]);

  const { boxes, links } = useMemo(
    () => (laid ? boxesOf(graph, laid.layout) : { boxes: [], links: [] }),
    [graph, laid],
  );
  const places = useMemo(() => absolutePlaces(boxes), [boxes]);
  useEffect(() => drawn(boxes), [boxes, drawn]);

  const zoomedOut = useStore((s) => s.transform[2] < AFAR);
  const sized = useStore((s) => s.width > 0);
  const many = boxes.length > MANY;
  const far = many && (zoomedOut || !fitted);

  const chosen = useMemo(() => new Set(selection.steps), [selection]);
  const before = useRef(new Map<string, StepBoxNode>());
  const nodes = useMemo(() => {
    const next = new Map<string, StepBoxNode>();
    for (const box of far ? [] : boxes) {
      const { x, y } = dragged.get(box.id) ?? box;
      const node: StepBoxNode = {
        ...stepNode(box),
        position: { x, y },
        selected: chosen.has(box.id),
        draggable: view === null && !isBand(box.id),
        selectable: !isBand(box.id),
        connectable: !isBand(box.id),
        focusable: false,
        dragHandle: box.step.inner ? ".head" : undefined,
        handles: docks(box),
      };
      const old = before.current.get(box.id);
      next.set(box.id, old && same(old, node) ? old : node);
    }
    before.current = next;
    return [...next.values()];
  }, [boxes, chosen, dragged, view, far]);
  const edges = useMemo(() => (far ? [] : gateEdges(links)), [links, far]);

  // The whole drawing stays in view until somebody moves it; from then on only what is chosen is kept in sight.
  const moved = useRef(false);
  const seen = useRef({ x: 0, y: 0, zoom: 1 });
  useLayoutEffect(() => {
    if (boxes.length === 0 || !sized) return;
    // Of what is not seen whole at first, an edit does not show the whole either.
    if (!fitted) moved.current = !sight.first(boxes, store.state.selection.steps[0]);
    else if (!moved.current) sight.within(boxes);
    else sight.keep(boxes, store.state.selection.steps[0] ?? store.state.selection.band);
    setFitted(true);
    // Being fitted for the first time is no reason to do it again.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [boxes, sized, sight, store]);

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
      if (moves.some((c) => c.dragging))
        setDragged(
          (all) =>
            new Map([
              ...all,
              ...moves.flatMap((c): [string, { x: number; y: number }][] => (c.position ? [[c.id, c.position]] : [])),
            ]),
        );
    },
    [store],
  );

  const originOf = (container: string | null) => places.get(container ?? "") ?? { x: 0, y: 0 };

  const onNodeDragStop = (_: unknown, node: StepBoxNode, all: StepBoxNode[]) => {
    const moved = new Map(all.map((n) => [n.id, n.position]));
    const box = boxes.find((b) => b.id === node.id);
    setDragged(new Map());
    if (!box) return;
    const origin = originOf(box.parent);
    const centre = {
      x: origin.x + node.position.x + box.width / 2,
      y: origin.y + node.position.y + (box.step.inner ? 12 : box.height / 2),
    };
    const scope = scopeAt(boxes, places, centre, [...moved.keys()]);
    if (scope !== scopeOf(node.id)) {
      const lost = gatesLost(design, [...moved.keys()]);
      store.apply(moveInto(design, [...moved.keys()], scope));
      if (lost.length > 0)
        notifications.show({
          title: lost.length === 1 ? "A gate was removed" : `${String(lost.length)} gates were removed`,
          message: `${lost.slice(0, 3).join("; ")}${lost.length > 3 ? " …" : ""}: a gate joins steps of the same container. Ctrl+Z brings back what was there.`,
          autoClose: 12_000,
        });
      return;
    }
    if (Math.abs(node.position.x - box.x) + Math.abs(node.position.y - box.y) < 4) return;
    // A step without gates that is dropped on a link goes between.
    const link = all.length === 1 && !links.some((l) => l.source === node.id || l.target === node.id);
    const between = link ? linkAt(links, boxes, places, scope, centre) : null;
    if (between) {
      store.apply(putBetween(design, scope, between.gate.index, node.id));
      return;
    }
    const put = placesOfScope(boxes, scope);
    for (const [id, at] of moved)
      if (scopeOf(id) === scope) put.set(id, [Math.max(0, at.x), Math.max(scope === "" ? -1e6 : headers, at.y)]);
    store.apply(place(design, put));
  };

  const { over, ...drops } = useDrops(state, boxes, links, places, wishes);

  const draw = (from: string, to: string) => {
    const why = whyNoGate(design, from, to);
    if (why === null) store.apply(connect(design, from, to));
    else notifications.show({ title: "No gate was drawn", message: why, autoClose: 8_000 });
  };
  // Dropped on a step it is a gate to that step, wherever it hit it; on the empty canvas it asks for a new step.
  const onConnectEnd: OnConnectEnd = (event, connection) => {
    if (connection.toNode || !connection.fromNode || connection.isValid) return;
    const from = connection.fromNode.id;
    const box = "clientX" in event ? pointedAt(event) : undefined;
    if (box && !isBand(box.id) && box.id !== from && !from.startsWith(`${box.id}/`)) draw(from, box.id);
    else ask(from, scopeOf(from));
  };

  /** The innermost box at a point of the page. */
  const pointedAt = (event: { clientX: number; clientY: number }) =>
    boxAt(boxes, places, flow.screenToFlowPosition({ x: event.clientX, y: event.clientY }));
  const chooseStep = (address: string) => {
    if (isBand(address)) {
      if (!store.state.picking) store.select({ steps: [], gate: null, band: address });
      return;
    }
    if (store.tookStep(address)) return;
    const status = view?.step(address);
    if (status) view?.choose(status.path);
  };
  // What the pointer is over becomes what is chosen, unless it is a part of that already; empty stands for nothing.
  const openMenu = (event: MouseEvent, over: string | null) => {
    if (!menu) return;
    event.preventDefault();
    if (over === "") store.select({ steps: [], gate: null });
    else if (over !== null && isBand(over)) store.select({ steps: [], gate: null, band: over });
    else if (over !== null && !selection.steps.includes(over)) store.select({ steps: [over], gate: null });
    menu({ x: event.clientX, y: event.clientY });
  };
  // From afar there are no elements that could be clicked, so the pane finds out what was meant.
  const onPaneClick = (event: MouseEvent) => {
    const box = far ? pointedAt(event) : undefined;
    if (box) {
      if (!store.state.picking && !isBand(box.id))
        store.select({ steps: isMore(event) ? [...chosen, box.id] : [box.id], gate: null });
      chooseStep(box.id);
    } else if (store.state.picking) store.pickStep(null);
    else store.select({ steps: [], gate: null });
  };
  /**
   * Where the pointer was pressed: a frame is told to begin only when it has moved, and the drawing may move meanwhile.
   */
  const frame = useRef({ x: 0, y: 0 });
  const onFrameEnd = (event: MouseEvent) => {
    if (!far) return;
    const [from, to] = [frame.current, flow.screenToFlowPosition({ x: event.clientX, y: event.clientY })];
    const within = (b: Box) => {
      const at = places.get(b.id) ?? b;
      return (
        at.x >= Math.min(from.x, to.x) &&
        at.x + b.width <= Math.max(from.x, to.x) &&
        at.y >= Math.min(from.y, to.y) &&
        at.y + b.height <= Math.max(from.y, to.y)
      );
    };
    store.select({ steps: boxes.filter((b) => within(b) && !isBand(b.id)).map((b) => b.id), gate: null });
  };

  const folds = useMemo(
    () => ({ folded, fold: (address: string, fold: boolean) => store.fold(address, fold) }),
    [folded, store],
  );
  const shown = useMemo(() => (over === null ? edit : { ...edit, over }), [edit, over]);
  return (
    <CanvasContext value={view}>
      <EditContext value={shown}>
        <FoldContext value={folds}>
          <ReactFlow
            aria-busy={laid?.shape !== shape}
            nodes={nodes}
            edges={edges}
            nodeTypes={nodeTypes}
            edgeTypes={edgeTypes}
            onNodesChange={onNodesChange}
            onNodeDragStop={onNodeDragStop}
            onNodeClick={(event, node) => {
              // One of several that are chosen becomes the only one.
              if (!isMore(event) && !store.state.picking && selection.steps.length > 1 && !isBand(node.id))
                store.select({ steps: [node.id], gate: null });
              chooseStep(node.id);
            }}
            onNodeDoubleClick={(_, node) =>
              isBand(node.id) ? undefined : store.select({ steps: [node.id], gate: null }, true)
            }
            onMoveStart={(_, v) => (seen.current = v)}
            onMove={(event, v) => {
              if (
                event &&
                (Math.abs(v.x - seen.current.x) + Math.abs(v.y - seen.current.y) > 2 || v.zoom !== seen.current.zoom)
              )
                moved.current = true;
            }}
            onPaneClick={onPaneClick}
            onNodeContextMenu={(event, node) => openMenu(event, node.id)}
            onSelectionContextMenu={(event) => openMenu(event, null)}
            onPaneContextMenu={(event) => openMenu(event as MouseEvent, far ? (pointedAt(event)?.id ?? "") : "")}
            onPointerDownCapture={(e) => (frame.current = flow.screenToFlowPosition({ x: e.clientX, y: e.clientY }))}
            onSelectionEnd={onFrameEnd}
            onDoubleClick={(e) => {
              const box = far ? pointedAt(e) : undefined;
              if (box) sight.one(boxes, box.id);
            }}
            onConnect={(c) => draw(c.source, c.target)}
            onConnectEnd={onConnectEnd}
            {...drops}
            selectionKeyCode="Shift"
            multiSelectionKeyCode={["Control", "Meta", "Shift"]}
            deleteKeyCode={null}
            disableKeyboardA11y
            nodesFocusable={false}
            edgesFocusable={false}
            nodesConnectable={view === null}
            connectionRadius={26}
            panOnScroll
            zoomActivationKeyCode={["Control", "Meta"]}
            minZoom={0.05}
            maxZoom={2}
            nodeDragThreshold={3}
            onlyRenderVisibleElements={many}
            zoomOnDoubleClick={false}
            autoPanOnSelection={false}
            autoPanSpeed={6}
            proOptions={{ hideAttribution: true }}
            aria-label="The chain as a drawing"
          >
            <Background variant={BackgroundVariant.Dots} gap={24} size={1} />
            {far && <FarDrawing boxes={boxes} links={links} view={view} edit={edit} />}
            <Controls showInteractive={false} aria-label="Zoom" onFitView={() => sight.all(boxes)} />
            <SmallMap chosen={selection.steps} />
          </ReactFlow>
        </FoldContext>
      </EditContext>
    </CanvasContext>
  );
}
