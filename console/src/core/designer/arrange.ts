import type { ScopeGraph } from "../api/types";
import type { Design, DesignStep } from "../document/design";
import { isBand, occasionOf, stackBands, withBands } from "../graph/bands";
import { drawing, type Box } from "../graph/flow";
import { scopeOf } from "../stepPath";
import { stepHeight, stepWidth, type Layout } from "../graph/places";

/** The chain's own steps with its handlers as bands. */
export const wholeOf = (design: Design): ScopeGraph =>
  withBands(
    design.root,
    design.handlers.map((h) => ({ occasion: occasionOf(h.address), graph: h })),
  );

const nothing: ScopeGraph = { steps: [], gates: [] };

/** The graph with folded containers as plain steps. */
export function withFolded(graph: ScopeGraph, folded: ReadonlySet<string>): ScopeGraph {
  if (folded.size === 0) return graph;
  return {
    gates: graph.gates,
    steps: graph.steps.map((s) =>
      s.inner
        ? folded.has(s.address)
          ? { ...s, inner: isBand(s.address) ? nothing : null, note: `${String(s.inner.steps.length)} inside` }
          : { ...s, inner: withFolded(s.inner, folded) }
        : s,
    ),
  };
}

/** What a layout depends on: ids, gates, labels and what holds what, not settings. */
export function shapeOf(graph: ScopeGraph): string {
  return JSON.stringify([
    graph.steps.map((s) => [s.id, s.inner ? shapeOf(s.inner) : 0]),
    graph.gates.map((g) => [g.from, g.to, g.label]),
  ]);
}

/** All boxes with their places; containers grow around steps that were put at places of their own. */
export function boxesOf(graph: ScopeGraph, { places, routes }: Layout) {
  const { boxes, links } = drawing(graph, places, routes);
  const byId = new Map(boxes.map((b) => [b.id, b]));
  for (const box of [...boxes].reverse()) {
    const parent = box.parent === null ? undefined : byId.get(box.parent);
    if (!parent) continue;
    parent.width = Math.max(parent.width, box.x + box.width + 18);
    parent.height = Math.max(parent.height, box.y + box.height + 18);
  }
  stackBands(boxes, links);
  return { boxes, links };
}

/** Where boxes are in the whole drawing. */
export function absolutePlaces(boxes: readonly Box[]): ReadonlyMap<string, { x: number; y: number }> {
  const places = new Map<string, { x: number; y: number }>();
  // A container stands before what it holds.
  for (const box of boxes) {
    const outer = box.parent === null ? undefined : places.get(box.parent);
    places.set(box.id, { x: (outer?.x ?? 0) + box.x, y: (outer?.y ?? 0) + box.y });
  }
  return places;
}

/** The innermost box at a point of the drawing. */
export const boxAt = (
  boxes: readonly Box[],
  places: ReadonlyMap<string, { x: number; y: number }>,
  point: { x: number; y: number },
): Box | undefined => boxes.findLast((b) => isIn(b, places.get(b.id) ?? b, point));

/** Whether a point lies in a box that stands at a place, or as near to it as the margin. */
export const isIn = (
  box: { width: number; height: number },
  at: { x: number; y: number },
  point: { x: number; y: number },
  margin = 0,
): boolean =>
  point.x >= at.x - margin &&
  point.x <= at.x + box.width + margin &&
  point.y >= at.y - margin &&
  point.y <= at.y + box.height + margin;

/** A free place beside a step, for a new one in a scope that was arranged by hand; null where the layout decides. */
export function placeBeside(
  design: Design,
  boxes: readonly Box[],
  scope: string,
  after: string | null,
): [number, number] | null {
  const inScope = boxes.filter((b) => (b.parent ?? "") === scope);
  if (!inScope.some((b) => design.placed.has(b.id))) return null;
  const near = inScope.find((b) => b.step.id === after) ?? inScope.at(-1);
  const x = near ? near.x + near.width + 50 : 20;
  let y = near?.y ?? 60;
  while (inScope.some((b) => Math.abs(b.x - x) < stepWidth && Math.abs(b.y - y) < stepHeight)) y += stepHeight + 22;
  return [x, y];
}

/** Steps in line: left edges, upper edges, or rows. */
export function align(
  boxes: readonly Box[],
  chosen: readonly string[],
  how: "left" | "top",
): Map<string, [number, number]> {
  const picked = boxes.filter((b) => chosen.includes(b.id));
  const edge = Math.min(...picked.map((b) => (how === "left" ? b.x : b.y)));
  return new Map(picked.map((b) => [b.id, how === "left" ? [edge, b.y] : [b.x, edge]]));
}

/** The places of all steps of a scope as they are drawn: putting one by hand fixes the others. */
export function placesOfScope(boxes: readonly Box[], scope: string): Map<string, [number, number]> {
  return new Map(boxes.filter((b) => (b.parent ?? "") === scope).map((b) => [b.id, [b.x, b.y]]));
}

export type Direction = "left" | "right" | "up" | "down";

/** Where an arrow key leads: along gates to the left and right, to neighbours up and down. */
export function walk(design: Design, boxes: readonly Box[], from: string | null, direction: Direction): string | null {
  const here = boxes.find((b) => b.id === from);
  if (!here) return boxes.find((b) => !isBand(b.id))?.id ?? null;
  const step = design.steps.get(here.id) as DesignStep;
  const scope = design.scopes.get(step.scope);
  const siblings = boxes.filter((b) => b.parent === here.parent && b.id !== here.id && !isBand(b.id));
  if (direction === "left" || direction === "right") {
    const along = (scope?.gates ?? [])
      .filter((g) => (direction === "right" ? g.from : g.to) === step.id)
      .map((g) => (direction === "right" ? g.to : g.from));
    const found = siblings.filter((b) => along.includes(b.step.id));
    const ahead =
      found.length > 0 ? found : siblings.filter((b) => (direction === "right" ? b.x > here.x : b.x < here.x));
    return nearest(ahead, here)?.id ?? null;
  }
  const beyond = siblings.filter((b) => (direction === "down" ? b.y > here.y + 4 : b.y < here.y - 4));
  return nearest(beyond, here)?.id ?? null;
}

/**
 * Where an arrow key leads at the upper or lower end of the flow or of a handler: to the next of them, to its first
 * step or, where it has none or is folded, to itself.
 */
export function walkBands(
  boxes: readonly Box[],
  from: string | null,
  direction: Direction,
): { step: string } | { band: string } | null {
  const home = from === null ? "" : isBand(from) ? from : scopeOf(from);
  if (home !== "" && !isBand(home)) return null;
  const scopes = ["", ...boxes.filter((b) => isBand(b.id)).map((b) => b.id)];
  const to = scopes[scopes.indexOf(home) + (direction === "down" ? 1 : direction === "up" ? -1 : NaN)];
  if (to === undefined) return null;
  const first = boxes.find((b) => (b.parent ?? "") === to && !isBand(b.id));
  return first ? { step: first.id } : to === "" ? null : { band: to };
}

function nearest(boxes: readonly Box[], to: Box): Box | undefined {
  const far = (b: Box) => Math.abs(b.x - to.x) + Math.abs(b.y - to.y);
  return [...boxes].sort((a, b) => far(a) - far(b))[0];
}
