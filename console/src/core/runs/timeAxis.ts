import { took } from "../format";
import { placeOf, type LegSpan } from "./runRows";

/** The part of the time axis that is in view, of 0 to 1. */
export interface TimeWindow {
  from: number;
  to: number;
}

export const wholeAxis: TimeWindow = { from: 0, to: 1 };

/** No closer than this: bars of one moment would fill the view. */
const least = 1 / 5000;

/** Where a place on the axis stands in the window; outside of 0 to 1 it is out of view. */
export const inWindow = (place: number, { from, to }: TimeWindow) => (place - from) / (to - from);

/** Closer by a factor above 1, farther by one below; what stands at a place of the view stays there. */
export function zoomed(window: TimeWindow, factor: number, at: number): TimeWindow {
  const size = Math.min(1, Math.max(least, (window.to - window.from) / factor));
  const fixed = window.from + at * (window.to - window.from);
  const from = Math.min(Math.max(0, fixed - at * size), 1 - size);
  return { from, to: from + size };
}

/** Along the axis, by a part of what is in view. */
export function moved(window: TimeWindow, by: number): TimeWindow {
  const size = window.to - window.from;
  const from = Math.min(Math.max(0, window.from + by * size), 1 - size);
  return { from, to: from + size };
}

/** Lengths of time that one counts in, in milliseconds. */
const steps = [
  ...[1, 10, 100].flatMap((n) => [n, 2 * n, 5 * n]),
  ...[1, 2, 5, 10, 15, 30].map((s) => s * 1000),
  ...[1, 2, 5, 10, 15, 30].map((m) => m * 60_000),
  ...[1, 2, 3, 6, 12, 24, 48, 168].map((h) => h * 3_600_000),
];

/** A mark on the axis: where it stands in the window, and how long after the leg's begin it is. */
export interface Tick {
  place: number;
  text: string;
  /** Whether it is where a leg begins. */
  leg: boolean;
}

/** What a label takes of the view, about. */
const labelRoom = 0.11;

/** Marks at round times, about `most` of them in view; a leg's own time begins with it. */
export function ticksOf(spans: readonly LegSpan[], window: TimeWindow, most: number): Tick[] {
  const total = spans.reduce((sum, s) => sum + Math.max(1, s.to - s.from), 0);
  const inView = total * (window.to - window.from);
  const step = steps.find((s) => inView / s <= most) ?? Math.ceil(inView / most / 604_800_000) * 604_800_000;
  const ticks: Tick[] = [];
  for (const span of spans) {
    const begin = placeOf(span.from, span.leg, spans);
    const shown = Math.max(0, Math.ceil(((window.from - begin) * total) / step) * step);
    for (let after = shown; after <= span.to - span.from && ticks.length < 4 * most; after += step) {
      const place = inWindow(placeOf(span.from + after, span.leg, spans), window);
      if (place > 1) break;
      const leg = spans.length > 1 && after === 0 ? `leg ${String(span.leg)}` : "";
      if (place >= 0) ticks.push({ place, text: leg || took(after), leg: leg !== "" });
    }
  }
  // The name of a leg has the room; a time that would touch it is left out.
  const legs = ticks.filter((t) => t.leg);
  return ticks.filter((t) => t.leg || legs.every((l) => Math.abs(l.place - t.place) > labelRoom));
}
