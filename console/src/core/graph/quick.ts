import type { ScopeGraph } from "../api/types";
import type { FlatScope, Layout, Place } from "./places";
import { arrange, type Pane } from "./scopes";

const gapX = 96;
const gapY = 26;

/**
 * A layout in a moment, for graphs that the layout engine takes too long for: layers by the longest way, in each the
 * order that its sources suggest.
 */
export function quickLayout(graph: ScopeGraph, headers: number, pane: Pane | null): Layout {
  const scopes = arrange(graph, headers, pane);
  let at = scopes.next();
  while (!at.done) at = scopes.next(quickScope(at.value));
  return at.value;
}

/** A scope by itself. */
function quickScope(scope: FlatScope): Layout {
  const places = new Map<string, Place>();
  const steps = new Map(scope.steps.map((s) => [s.id, s]));
  const layers = layersOf(scope);
  order(scope, layers);
  const heights = layers.map((layer) => layer.reduce((h, id) => h + (steps.get(id)?.height ?? 0) + gapY, -gapY));
  const height = Math.max(0, ...heights);
  let x = 0;
  layers.forEach((layer, i) => {
    let y = (height - (heights[i] ?? 0)) / 2;
    for (const id of layer) {
      const step = steps.get(id);
      if (!step) continue;
      places.set(step.address, { x, y, width: step.width, height: step.height });
      y += step.height + gapY;
    }
    x += Math.max(...layer.map((id) => steps.get(id)?.width ?? 0)) + gapX;
  });
  return { places, routes: new Map() };
}

/**
 * Sorts each layer by where the steps stand that its gates come from, and on the way back by where they lead: fewer
 * gates cross.
 */
function order(graph: FlatScope, layers: string[][]): void {
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
function layersOf(graph: FlatScope): string[][] {
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
