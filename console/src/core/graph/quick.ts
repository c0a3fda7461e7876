import type { ScopeGraph } from "../api/types";
import { stepHeight, stepWidth, type Place, type Places } from "./elkGraph";

const gapX = 92;
const gapY = 22;

/** Steps of a graph, inner ones included. */
export const countSteps = (graph: ScopeGraph): number =>
  graph.steps.reduce((n, s) => n + 1 + (s.inner ? countSteps(s.inner) : 0), 0);

/**
 * A layout in a moment, for graphs that the layout engine takes too long for: layers by the longest way, in each the
 * order that its sources suggest.
 */
export function quickPlaces(graph: ScopeGraph, headers: number): Places {
  const places = new Map<string, Place>();
  layOutScope(graph, headers, places);
  return places;
}

/** Puts the steps of a scope; gives the size it needs. */
function layOutScope(
  graph: ScopeGraph,
  headers: number,
  places: Map<string, Place>,
): { width: number; height: number } {
  const sizes = new Map(
    graph.steps.map((s) => {
      if (!s.inner) return [s.id, { width: stepWidth, height: stepHeight }];
      const inside = layOutScope(s.inner, headers, places);
      for (const child of s.inner.steps) {
        const place = places.get(child.address);
        if (place) places.set(child.address, { ...place, x: place.x + 18, y: place.y + headers });
      }
      return [s.id, { width: Math.max(260, inside.width + 36), height: Math.max(120, inside.height + headers + 18) }];
    }),
  );
  const layers = layersOf(graph);
  order(graph, layers);
  const size = (id: string) => sizes.get(id) ?? { width: stepWidth, height: stepHeight };
  const heights = layers.map((layer) => layer.reduce((h, id) => h + size(id).height + gapY, -gapY));
  const height = Math.max(0, ...heights);
  const address = new Map(graph.steps.map((s) => [s.id, s.address]));
  let x = 8;
  layers.forEach((layer, i) => {
    let y = 8 + (height - (heights[i] ?? 0)) / 2;
    for (const id of layer) {
      places.set(address.get(id) ?? id, { x, y, ...size(id) });
      y += size(id).height + gapY;
    }
    x += Math.max(...layer.map((id) => size(id).width)) + gapX;
  });
  return { width: x - gapX + 8, height: height + 16 };
}

/**
 * Sorts each layer by where the steps stand that its gates come from, and on the way back by where they lead: fewer
 * gates cross.
 */
function order(graph: ScopeGraph, layers: string[][]): void {
  const row = new Map<string, number>();
  const number = (layer: string[]) => layer.forEach((id, i) => row.set(id, (i + 0.5) / layer.length));
  layers.forEach(number);
  const [sources, targets] = [new Map<string, string[]>(), new Map<string, string[]>()];
  for (const { from, to } of graph.gates) {
    if (!row.has(from) || !row.has(to)) continue;
    sources.set(to, [...(sources.get(to) ?? []), from]);
    targets.set(from, [...(targets.get(from) ?? []), to]);
  }
  for (let sweep = 0; sweep < 5; sweep++) {
    const beside = sweep % 2 === 0 ? sources : targets;
    for (const layer of sweep % 2 === 0 ? layers : [...layers].reverse()) {
      const wanted = new Map(
        layer.map((id) => [id, mean((beside.get(id) ?? []).map((s) => row.get(s) ?? 0)) ?? row.get(id) ?? 0]),
      );
      layer.sort((a, b) => (wanted.get(a) ?? 0) - (wanted.get(b) ?? 0));
      number(layer);
    }
  }
}

const mean = (numbers: number[]) =>
  numbers.length === 0 ? undefined : numbers.reduce((a, b) => a + b, 0) / numbers.length;

/** Every step behind all its sources; steps of a circle, which is told as a problem, come last. */
function layersOf(graph: ScopeGraph): string[][] {
  const waiting = new Map(graph.steps.map((s) => [s.id, 0]));
  const targets = new Map<string, string[]>();
  for (const gate of graph.gates) {
    if (!waiting.has(gate.from) || !waiting.has(gate.to)) continue;
    waiting.set(gate.to, (waiting.get(gate.to) ?? 0) + 1);
    targets.set(gate.from, [...(targets.get(gate.from) ?? []), gate.to]);
  }
  const layers: string[][] = [];
  let free = graph.steps.map((s) => s.id).filter((id) => waiting.get(id) === 0);
  const left = new Set(waiting.keys());
  while (free.length > 0) {
    layers.push(free);
    const next: string[] = [];
    for (const id of free) {
      left.delete(id);
      for (const target of targets.get(id) ?? []) {
        const count = (waiting.get(target) ?? 0) - 1;
        waiting.set(target, count);
        if (count === 0) next.push(target);
      }
    }
    free = next;
  }
  if (left.size > 0) layers.push([...left]);
  return layers;
}
