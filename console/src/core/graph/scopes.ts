import type { GateEdge, ScopeGraph, StepNode } from "../api/types";
import { moveRoute, stepHeight, stepWidth, type Layout, type Place, type Point, type Route } from "./places";
import { wrapper } from "./rows";

/** What a drawing has to be seen in, in pixels. */
export interface Pane {
  width: number;
  height: number;
  /** How wide its rows were before an edit: they stay so, unless another width is much better. */
  rows?: number;
}

/** A scope by itself: gates never cross its border, so containers are boxes of known size. */
export interface FlatScope {
  /** Of the container; empty for the chain's own scope. */
  address: string;
  steps: readonly { id: string; address: string; width: number; height: number }[];
  /** Those whose both ends are there. */
  gates: readonly GateEdge[];
}

/** The gates whose both ends are there: a draft may name steps that it has not, or not any more. */
export function joining<G extends GateEdge>(scope: { steps: readonly StepNode[]; gates: readonly G[] }): G[] {
  const ids = new Set(scope.steps.map((s) => s.id));
  return scope.gates.filter((g) => ids.has(g.from) && ids.has(g.to));
}

/** Steps of a graph, inner ones included. */
export const countSteps = (graph: ScopeGraph): number =>
  graph.steps.reduce((n, s) => n + 1 + (s.inner ? countSteps(s.inner) : 0), 0);

/** The room around what a container holds, below its head, in pixels. */
const padding = 18;

const smallest = { width: 260, height: 120 };

/**
 * Lays out a graph from the inside out: asks for the layout of each scope by itself, wraps it into rows, and puts it
 * into its container. The outermost scope is wrapped so that it is seen as big as can be.
 * @param headers the height that containers keep for their head, in pixels
 * @param pane where it is seen; null for a drawing that is not wrapped
 * @param address of the scope
 */
export function* arrange(
  graph: ScopeGraph,
  headers: number,
  pane: Pane | null,
  address = "",
): Generator<FlatScope, Sized, Layout> {
  const places = new Map<string, Place>();
  const routes = new Map<string, Route>();
  const sizes: FlatScope["steps"][number][] = [];
  for (const step of graph.steps) {
    let size = { width: stepWidth, height: stepHeight };
    if (step.inner) {
      const inside = yield* arrange(step.inner, headers, pane, step.address);
      const by = { x: padding, y: headers };
      for (const [id, place] of inside.places)
        places.set(id, isDirect(step, id) ? { ...place, x: place.x + by.x, y: place.y + by.y } : place);
      for (const [id, route] of inside.routes)
        routes.set(id, id.startsWith(`${step.address}#`) ? moveRoute(route, by) : route);
      size = {
        width: Math.max(smallest.width, inside.width + 2 * padding),
        height: Math.max(smallest.height, inside.height + headers + padding),
      };
    }
    sizes.push({ id: step.id, address: step.address, ...size });
  }
  const scope = { address, steps: sizes, gates: joining(graph) };
  const flat = yield scope;
  const own = pane === null ? atOrigin(flat) : address === "" ? best(scope, flat, pane) : narrow(scope, flat);
  for (const [id, place] of own.places) places.set(id, place);
  for (const [id, route] of own.routes) routes.set(id, route);
  return { places, routes, width: own.width, height: own.height, rows: own.rows };
}

// Places are relative to the container: only those of its own steps move with it.
const isDirect = (container: StepNode, id: string) => container.inner?.steps.some((s) => s.address === id) === true;

/** How much bigger a drawing has to be seen for its steps to move from row to row. */
const worthAMove = 1.25;

/** Wrapped to the width with which it is seen biggest. */
function best(scope: FlatScope, flat: Layout, pane: Pane): Sized {
  const wrap = wrapper(scope, flat);
  const whole = atOrigin(flat);
  let found: Sized = { ...whole, rows: Infinity };
  const before =
    pane.rows === undefined ? null : pane.rows === Infinity ? found : { ...atOrigin(wrap(pane.rows)), rows: pane.rows };
  const zoom = ({ width, height }: Sized) => Math.min(1, pane.width / width, pane.height / height);
  // A row that is a little fuller or emptier is another drawing; wider than the whole is none.
  for (let width = pane.width; width < whole.width && zoom(found) < 1; width *= 1.12) {
    const layout = wrap(width);
    if (layout === flat) continue;
    const wrapped = atOrigin(layout);
    if (zoom(wrapped) > zoom(found) * 1.03) found = { ...wrapped, rows: width };
  }
  return before && zoom(found) < zoom(before) * worthAMove ? before : found;
}

/** A container is never so wide that nobody sees it whole. */
const narrow = (scope: FlatScope, flat: Layout): Sized => atOrigin(wrapper(scope, flat)(widest));

const widest = 1100;

type Sized = Layout & { width: number; height: number; rows?: number };

function atOrigin({ places, routes }: Layout): Sized {
  const corners = [...places.values()].flatMap((p) => [p, { x: p.x + p.width, y: p.y + p.height }]);
  const all: Point[] = [...corners, ...[...routes.values()].flatMap((r) => r.points)];
  if (all.length === 0) return { places, routes, width: 0, height: 0 };
  const least = { x: Math.min(...all.map((p) => p.x)), y: Math.min(...all.map((p) => p.y)) };
  const by = { x: -least.x, y: -least.y };
  return {
    places: new Map([...places].map(([id, p]) => [id, { ...p, x: p.x + by.x, y: p.y + by.y }])),
    routes: new Map([...routes].map(([id, r]) => [id, moveRoute(r, by)])),
    width: Math.max(...all.map((p) => p.x)) - least.x,
    height: Math.max(...all.map((p) => p.y)) - least.y,
  };
}
