import type { GateEdge, ScopeGraph, StepNode } from "../api/types";
import type { Places } from "./elkGraph";

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
}

/** The whole drawing, outer boxes before inner ones. */
export function drawing(graph: ScopeGraph, places: Places): { boxes: Box[]; links: Link[] } {
  const boxes: Box[] = [];
  const links: Link[] = [];
  const visit = (scope: ScopeGraph, owner: string) => {
    const prefix = owner === "" ? "" : `${owner}/`;
    for (const step of scope.steps) {
      const place = places.get(step.address);
      if (!place) continue;
      const own = step.place && step.place.length === 2 ? { x: step.place[0] ?? place.x, y: step.place[1] ?? place.y } : place;
      boxes.push({ id: step.address, parent: owner === "" ? null : owner, step, x: own.x, y: own.y, width: place.width, height: place.height });
      if (step.inner) visit(step.inner, step.address);
    }
    for (const gate of scope.gates) {
      links.push({ id: `${owner}#${String(gate.index)}`, source: `${prefix}${gate.from}`, target: `${prefix}${gate.to}`, scope: owner, gate });
    }
  };
  visit(graph, "");
  return { boxes, links };
}
