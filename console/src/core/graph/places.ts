import type { GateEdge } from "../api/types";

/** The size of a step on the canvas, in pixels. */
export const stepWidth = 172;
export const stepHeight = 64;

/** How much room the head of a container takes, in pixels. */
export const containerHead = 46;

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

/** The way of a gate's link around the steps between, relative to the container, and where the gate stands on it. */
export interface Route {
  /** Bézier curves from one end to the other; with `corners` the ends of straight lines. */
  points: readonly Point[];
  gate: Point;
  corners?: boolean;
}

/** Routes by link, as the drawing calls them. */
export type Routes = ReadonlyMap<string, Route>;

/** A scope by itself: gates never cross its border, so containers are boxes of known size. */
export interface FlatScope {
  /** Of the container; empty for the chain's own scope. */
  address: string;
  steps: readonly { id: string; address: string; width: number; height: number }[];
  /** Those whose both ends are there. */
  gates: readonly GateEdge[];
}

/** A gate of a scope, with the addresses of its steps, as the drawing calls it. */
export interface ScopeLink {
  id: string;
  from: string;
  to: string;
  label: string;
}

/** The links of a scope. */
export function linksOf(scope: FlatScope): ScopeLink[] {
  const addresses = new Map(scope.steps.map((s) => [s.id, s.address]));
  return scope.gates.flatMap((g) => {
    const [from, to] = [addresses.get(g.from), addresses.get(g.to)];
    return from !== undefined && to !== undefined
      ? [{ id: linkId(scope.address, g.index), from, to, label: g.label }]
      : [];
  });
}

/** A scope as it was drawn. */
export interface Drawn {
  scope: FlatScope;
  layout: Layout;
}

/** Where everything is. */
export interface Layout {
  places: Places;
  routes: Routes;
  /** Where each row begins, from above; of a drawing that was wrapped. */
  rows?: readonly number[];
  /** Each scope by itself, by address: what the drawing after an edit begins with. */
  scopes?: ReadonlyMap<string, Drawn>;
}

/** The link of a gate: the scope that it lies in, and which of its gates it is. */
export const linkId = (scope: string, index: number) => `${scope}#${String(index)}`;

/** How wide a label is drawn, about. */
export const labelWidth = (label: string) => (label.length === 0 ? 20 : Math.min(label.length, 17) * 6.4 + 16);

const move = (by: Point) => (point: Point) => ({ x: point.x + by.x, y: point.y + by.y });

export const moveRoute = (route: Route, by: Point): Route => ({
  ...route,
  points: route.points.map(move(by)),
  gate: move(by)(route.gate),
});
