import type { ChainGraph, RunDetail, ScopeGraph, StepNode } from "../api/types";
import { worst } from "../states";
import type { Box, Link } from "./flow";
import { moveRoute } from "./places";

/** What a handler is for, in the order in which handlers are drawn. */
export const occasions: { name: string; title: string; about: string }[] = [
  { name: "success", title: "When it succeeds", about: "Runs when all steps are through and no failure counts." },
  { name: "failure", title: "When it fails", about: "Runs when all steps are through and a failure counts." },
  {
    name: "end",
    title: "At the end",
    about: "Runs when all steps are through, however they ended; after the two above.",
  },
  { name: "pause", title: "When it pauses", about: "Runs beside the run as soon as it pauses." },
  { name: "late", title: "When it is late", about: "Runs beside the run once it takes longer than it is due in." },
  {
    name: "endangered",
    title: "When it will be late",
    about: "Runs beside the run, before it is late, when it will take too long as runs before it went.",
  },
];

export const occasionOf = (address: string) => address.slice(1);

export const bandTitle = (occasion: string) => occasions.find((o) => o.name === occasion)?.title ?? `On ${occasion}`;

/** Whether an address is that of a handler itself: it is drawn as a band below the flow. */
export const isBand = (address: string) => address.startsWith("@") && !address.includes("/");

export interface Handler {
  occasion: string;
  graph: ScopeGraph;
}

const rank = (occasion: string) => {
  const at = occasions.findIndex((o) => o.name === occasion);
  return at < 0 ? occasions.length : at;
};

/** A handler as the drawing has it: a container of its own. */
const bandOf = ({ occasion, graph }: Handler): StepNode => ({
  id: `@${occasion}`,
  address: `@${occasion}`,
  kind: "",
  title: bandTitle(occasion),
  notes: null,
  join: "all",
  ifFails: "fail",
  disabled: false,
  note: null,
  guarded: false,
  lane: null,
  place: null,
  inner: graph,
});

/** The chain's own steps, and a band for each handler behind them. */
export const withBands = (graph: ScopeGraph, handlers: readonly Handler[]): ScopeGraph =>
  handlers.length === 0
    ? { steps: graph.steps, gates: graph.gates }
    : {
        steps: [
          ...graph.steps,
          ...[...handlers].sort((a, b) => rank(a.occasion) - rank(b.occasion)).map((handler) => bandOf(handler)),
        ],
        gates: graph.gates,
      };

/** What is laid out by itself: the flow, and each band. */
export const partsOf = (graph: ScopeGraph): ScopeGraph[] => [
  { gates: graph.gates, steps: graph.steps.filter((s) => !isBand(s.address)) },
  ...graph.steps.filter((s) => isBand(s.address)).map((s) => ({ gates: [], steps: [s] })),
];

/** The kind of a step of a chain or its handlers, by its address. */
export function kindOf(graph: ChainGraph, address: string): string | undefined {
  let steps = withBands(graph, graph.handlers).steps;
  for (;;) {
    const step = steps.find((s) => s.address === address || address.startsWith(`${s.address}/`));
    if (step?.address === address) return step.kind;
    if (!step?.inner) return undefined;
    steps = step.inner.steps;
  }
}

const GAP = 18;
const HEAD = 44;
const EMPTY = 104;

/** Puts the bands below the flow, one under the other and as wide as it; in place. */
export function stackBands(boxes: Box[], links: Link[]): void {
  const bands = boxes.filter((b) => isBand(b.id));
  if (bands.length === 0) return;
  const flow = boxes.filter((b) => b.parent === null && !isBand(b.id));
  const left = Math.min(...flow.map((b) => b.x), 8);
  const right = Math.max(...flow.map((b) => b.x + b.width), ...bands.map((b) => left + b.width), left + 420);
  let y = Math.max(...flow.map((b) => b.y + b.height), 0) + (flow.length > 0 ? 2 * GAP : GAP);
  for (const band of bands) {
    const [dx, dy] = [left - band.x, y - band.y];
    [band.x, band.y, band.width] = [left, y, right - left];
    if (band.step.inner?.steps.length === 0) band.height = band.step.note === null ? EMPTY : HEAD;
    for (const link of links)
      if ((link.scope === band.id || link.scope.startsWith(`${band.id}/`)) && link.route)
        link.route = moveRoute(link.route, { x: dx, y: dy });
    y += band.height + GAP;
  }
}

/** The times that a handler ran, by its band: the number of each, and how it fared. */
export function handlerRuns(run: Pick<RunDetail, "steps">): Map<string, { number: number; state: string }[]> {
  const states = new Map<string, Map<number, string[]>>();
  for (const step of run.steps) {
    const found = /^(@[a-z]+)\[(\d+)\]\/[^/]+$/.exec(step.path);
    if (!found) continue;
    const [band, number] = [found[1] ?? "", Number(found[2])];
    const runs = states.get(band) ?? new Map<number, string[]>();
    states.set(band, runs.set(number, [...(runs.get(number) ?? []), step.state]));
  }
  return new Map(
    [...states].map(([band, runs]) => [
      band,
      [...runs].sort(([a], [b]) => a - b).map(([number, all]) => ({ number, state: worst(all) })),
    ]),
  );
}
