import type { GateEdge, ScopeGraph, StepNode } from "../api/types";
import { stackBands } from "./bands";
import { linkId, moveRoute, type Places, type Route, type Routes } from "./places";
import { joining } from "./scopes";

/** A box of the drawing. Addresses of steps name boxes; a container stands before what it holds. */
export interface Box {
  id: string;
  parent: string | null;
  step: StepNode;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A gate of the drawing. */
export interface Link {
  id: string;
  source: string;
  target: string;
  /** The address of the container it lies in; empty for the chain's own scope. */
  scope: string;
  gate: GateEdge;
  /** Its way in the whole drawing, as long as both steps stay where they were laid out. */
  route?: Route;
}

/** The whole drawing, outer boxes before inner ones. */
export function drawing(
  graph: ScopeGraph,
  places: Places,
  routes: Routes = new Map(),
): { boxes: Box[]; links: Link[] } {
  const boxes: Box[] = [];
  const links: Link[] = [];
  const visit = (scope: ScopeGraph, owner: string, x: number, y: number) => {
    const prefix = owner === "" ? "" : `${owner}/`;
    for (const step of scope.steps) {
      const place = places.get(step.address);
      if (!place) continue;
      const own =
        step.place && step.place.length === 2 ? { x: step.place[0] ?? place.x, y: step.place[1] ?? place.y } : place;
      boxes.push({
        id: step.address,
        parent: owner === "" ? null : owner,
        step,
        x: own.x,
        y: own.y,
        width: place.width,
        height: place.height,
      });
      if (step.inner) visit(step.inner, step.address, x + own.x, y + own.y);
    }
    for (const gate of joining(scope)) {
      const id = linkId(owner, gate.index);
      const route = routes.get(id);
      links.push({
        id,
        source: `${prefix}${gate.from}`,
        target: `${prefix}${gate.to}`,
        scope: owner,
        gate,
        route: route && moveRoute(route, { x, y }),
      });
    }
  };
  visit(graph, "", 0, 0);
  stackBands(boxes, links);
  return { boxes, links };
}
