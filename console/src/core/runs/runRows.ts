import type { AttemptInfo, RunDetail, StepStatus } from "../api/types";
import { bandTitle } from "../graph/bands";
import { titlesOf } from "../graph/titles";
import { worst } from "../states";
import { scopeOf } from "../stepPath";

/** A line of the steps tree: a step instance or an iteration. */
export interface Row {
  key: string;
  depth: number;
  /** The step's path; null for the own line of an iteration or a handler. */
  path: string | null;
  name: string;
  state: string;
  message: string | null;
  started: string | null;
  ended: string | null;
  absorbed: boolean;
  attempts: AttemptInfo[];
  /** When its guard held it, and in which leg; null when it did not. */
  held: { from: string; to: string | null; leg: number } | null;
  /** Whether lines below belong to it. */
  holds: boolean;
}

function group<T>(items: readonly T[], key: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const found = groups.get(key(item));
    if (found) found.push(item);
    else groups.set(key(item), [item]);
  }
  return groups;
}

/** The steps of a run as a tree, line by line; what lies below a folded line is left out. */
export function rowsOf(run: RunDetail, folded: ReadonlySet<string>): Row[] {
  const titles = titlesOf(run.graph);
  const steps = group(run.steps, (s) => scopeOf(s.path));
  const iterations = group(run.iterations, (i) => i.step);
  const attempts = group(run.attempts, (a) => a.step);
  const rows: Row[] = [];

  const add = (scope: string, depth: number) => {
    for (const step of steps.get(scope) ?? []) {
      const inside = iterations.get(step.path) ?? [];
      rows.push({
        key: step.path,
        depth,
        path: step.path,
        name: titles.get(step.address) ?? step.address,
        state: step.state,
        message: step.message,
        started: step.started,
        ended: step.ended,
        absorbed: step.absorbed,
        attempts: attempts.get(step.path) ?? [],
        holds: inside.length > 0 || steps.has(step.path),
        held: heldOf(step),
      });
      if (folded.has(step.path)) continue;
      for (const iteration of [...inside].sort((a, b) => a.index - b.index)) {
        rows.push({
          key: iteration.path,
          depth: depth + 1,
          path: null,
          name: iteration.item,
          state: iteration.state,
          message: iteration.message,
          started: iteration.started,
          ended: iteration.ended,
          absorbed: false,
          attempts: [],
          holds: true,
          held: null,
        });
        if (!folded.has(iteration.path)) add(iteration.path, depth + 2);
      }
      if (step.hidden > 0) {
        rows.push({
          key: `${step.path}…`,
          depth: depth + 1,
          path: null,
          name: `… and ${String(step.hidden)} more that succeeded`,
          state: "succeeded",
          message: null,
          started: null,
          ended: null,
          absorbed: false,
          attempts: [],
          holds: false,
          held: null,
        });
      }
      if (inside.length === 0) add(step.path, depth + 1);
    }
  };
  add("", 0);
  for (const handler of run.handlers) {
    const inside = steps.get(handler.path) ?? [];
    rows.push({
      key: handler.path,
      depth: 0,
      path: null,
      name: bandTitle(handler.occasion),
      state: worst(inside.map((s) => s.state)),
      message: handler.message,
      started: null,
      ended: null,
      absorbed: false,
      attempts: [],
      holds: inside.length > 0,
      held: null,
    });
    if (!folded.has(handler.path)) add(handler.path, 1);
  }
  return rows;
}

// A guard that let the step in at its first look has not held it.
const heldOf = (step: StepStatus): Row["held"] =>
  step.hold && (step.hold.looks > 1 || step.state === "held")
    ? { from: step.hold.since, to: step.state === "held" ? null : (step.started ?? step.ended), leg: step.leg }
    : null;

/** Where one leg lies on the time axis. The pauses between legs take no room. */
export interface LegSpan {
  leg: number;
  from: number;
  to: number;
}

/** The most attempts that the service tells of a run. */
const attemptsShown = 2000;

/** The legs of a run on a time axis without the gaps between them; milliseconds. */
export function legSpans(run: RunDetail, now: number): LegSpan[] {
  const spans = new Map<number, LegSpan>();
  const holds = run.steps.map(heldOf).filter((held) => held !== null);
  for (const { leg, from: began, to: ended } of [
    ...run.attempts.map((a) => ({ leg: a.leg, from: a.started, to: a.ended })),
    ...holds,
    // Of many attempts the page has only the latest; the steps tell when the others were.
    ...(run.attempts.length < attemptsShown ? [] : run.steps).flatMap((s) =>
      s.started === null ? [] : [{ leg: s.leg, from: s.started, to: s.ended }],
    ),
  ]) {
    const from = Date.parse(began);
    const to = ended == null ? now : Date.parse(ended);
    const span = spans.get(leg);
    if (!span) spans.set(leg, { leg, from, to });
    else {
      span.from = Math.min(span.from, from);
      span.to = Math.max(span.to, to);
    }
  }
  return [...spans.values()].sort((a, b) => a.leg - b.leg);
}

/** The place of a moment on the axis, from 0 to 1. */
export function placeOf(moment: number, leg: number, spans: readonly LegSpan[]): number {
  const total = spans.reduce((sum, span) => sum + Math.max(1, span.to - span.from), 0);
  let before = 0;
  for (const span of spans) {
    if (span.leg === leg)
      return total === 0 ? 0 : (before + Math.min(Math.max(0, moment - span.from), span.to - span.from)) / total;
    before += Math.max(1, span.to - span.from);
  }
  return 0;
}
