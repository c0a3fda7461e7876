import type { GateEdge, ScopeGraph, StepNode } from "../api/types";
import {
  moveRoute,
  stepHeight,
  stepWidth,
  type Drawn,
  type FlatScope,
  type Layout,
  type Place,
  type Point,
  type Route,
} from "./places";
import { wrapper } from "./rows";
import { steady } from "./steady";

/** What a drawing has to be seen in, in pixels. */
export interface Pane {
  width: number;
  height: number;
  /** The drawing before an edit, by scope: it stays as it was, as far as the edit lets it. */
  before?: ReadonlyMap<string, Drawn>;
  /** Where new steps were dropped, by address; relative to the container. */
  wishes?: ReadonlyMap<string, Point>;
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

/** What the head of a container needs: its title, its note or how it went, and the choice of its iterations. */
function headWidth({ title, kind }: StepNode): number {
  const chosen = kind === "each" || kind === "repeat" ? 200 : 0;
  return Math.max(smallest.width, Math.min(title.length, 40) * 7.2 + 160 + chosen);
}

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
  const scopes = new Map<string, Drawn>();
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
      for (const [id, scope] of inside.scopes ?? []) scopes.set(id, scope);
      size = {
        width: Math.max(headWidth(step), inside.width + 2 * padding),
        height: Math.max(smallest.height, inside.height + headers + padding),
      };
    }
    sizes.push({ id: step.id, address: step.address, ...size });
  }
  const scope = { address, steps: sizes, gates: joining(graph) };
  const flat = yield scope;
  const fresh = pane === null ? atOrigin(flat) : address === "" ? best(scope, flat, pane) : narrow(scope, flat);
  const own = (pane && kept(scope, fresh, pane, headers)) ?? fresh;
  scopes.set(address, { scope, layout: own });
  for (const [id, place] of own.places) places.set(id, place);
  for (const [id, route] of own.routes) routes.set(id, route);
  return { places, routes, width: own.width, height: own.height, scopes };
}

// Places are relative to the container: only those of its own steps move with it.
const isDirect = (container: StepNode, id: string) => container.inner?.steps.some((s) => s.address === id) === true;

/** Wrapped to the width with which it is seen biggest. */
function best(scope: FlatScope, flat: Layout, pane: Pane): Sized {
  const wrap = wrapper(scope, flat);
  const whole = atOrigin(flat);
  let found = whole;
  const zoom = zoomIn(pane);
  // A row that is a little fuller or emptier is another drawing; wider than the whole is none.
  for (let width = pane.width; width < whole.width && zoom(found) < 1; width *= 1.12) {
    const layout = wrap(width);
    if (layout === flat) continue;
    const wrapped = atOrigin(layout);
    if (zoom(wrapped) > zoom(found) * 1.03) found = wrapped;
  }
  return found;
}

/** How big a drawing is seen in a pane; one is its own size. */
const zoomIn =
  (pane: Pane) =>
  ({ width, height }: Sized) =>
    Math.min(1, pane.width / width, pane.height / height);

/** How much bigger a drawing has to be seen for its steps to move. */
const worthAMove = 1.25;

/** The drawing as it was, with what an edit changed; null where a new one is much better or nothing else will do. */
function kept(scope: FlatScope, fresh: Sized, pane: Pane, headers: number): Sized | null {
  const before = pane.before?.get(scope.address);
  if (!before) return null;
  const inside = scope.address === "" ? { x: 0, y: 0 } : { x: padding, y: headers };
  const wishes = new Map([...(pane.wishes ?? [])].map(([id, p]) => [id, { x: p.x - inside.x, y: p.y - inside.y }]));
  const layout = steady(scope, before, wishes);
  if (!layout) return null;
  // The outermost stays where it is seen; what a container holds begins at its edge.
  const own = scope.address === "" ? { ...layout, ...sizeOf(layout) } : atOrigin(layout);
  const better =
    scope.address === ""
      ? zoomIn(pane)(fresh) > zoomIn(pane)(own) * worthAMove
      : own.width > fresh.width * worthAMove * 1.2 || own.height > fresh.height * worthAMove * 1.2;
  return better ? null : own;
}

/** A container is never so wide that nobody sees it whole. */
const narrow = (scope: FlatScope, flat: Layout): Sized => atOrigin(wrapper(scope, flat)(widest));

const widest = 1100;

type Sized = Layout & { width: number; height: number };

function sizeOf({ places, routes }: Layout): Place {
  const corners = [...places.values()].flatMap((p) => [p, { x: p.x + p.width, y: p.y + p.height }]);
  const all: Point[] = [...corners, ...[...routes.values()].flatMap((r) => r.points)];
  if (all.length === 0) return { x: 0, y: 0, width: 0, height: 0 };
  const least = { x: Math.min(...all.map((p) => p.x)), y: Math.min(...all.map((p) => p.y)) };
  return {
    ...least,
    width: Math.max(...all.map((p) => p.x)) - least.x,
    height: Math.max(...all.map((p) => p.y)) - least.y,
  };
}

function atOrigin(layout: Layout): Sized {
  const { x, y, width, height } = sizeOf(layout);
  const by = { x: -x, y: -y };
  return {
    places: new Map([...layout.places].map(([id, p]) => [id, { ...p, x: p.x + by.x, y: p.y + by.y }])),
    routes: new Map([...layout.routes].map(([id, r]) => [id, moveRoute(r, by)])),
    rows: layout.rows?.map((top) => top - y),
    width,
    height,
  };
}
