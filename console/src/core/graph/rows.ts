import {
  labelWidth,
  linksOf,
  moveRoute,
  type FlatScope,
  type Layout,
  type Place,
  type Point,
  type Route,
  type ScopeLink,
} from "./places";

/** What a row may be wider than it should, before it is too wide. */
const tolerance = 1.08;

/** More gates than these are never led from one row to the next. */
const mostCrossing = 6;

/** Room between a row and the links that lead on below it, in pixels. */
const margin = 16;

/** How far a link goes from a step before it turns, in pixels. */
const stub = 18;

/** A place where a drawing may be cut: no step stands across it. */
interface Column {
  left: number;
  right: number;
  ids: string[];
}

/**
 * Wraps a drawing that goes from left to right into rows, as text is wrapped: it is cut where few gates lead on, and
 * those are led below the row to the beginning of the next one. What is within a row stays as it is. Made once for a
 * drawing; gives the drawing itself for a width that it is not wrapped to.
 */
export function wrapper(scope: FlatScope, layout: Layout): (width: number) => Layout {
  const columns = columnsOf(layout.places);
  const [first, last] = [columns[0], columns.at(-1)];
  if (!first || !last || columns.length < 2) return () => layout;
  const column = new Map(columns.flatMap((c, i) => c.ids.map((id) => [id, i])));
  const links = linksOf(scope);
  const crossing = crossings(
    columns.length,
    links.map((l) => [column.get(l.from) ?? 0, column.get(l.to) ?? 0]),
  );
  return (width) => {
    if (last.right - first.left <= width * tolerance) return layout;
    const rows = cut(columns, width, crossing);
    return rows.length < 2 ? layout : new Rows(columns, rows, links, layout).layout();
  };
}

/** Steps whose sides overlap stand in one column. */
function columnsOf(places: Layout["places"]): Column[] {
  const columns: Column[] = [];
  for (const [id, place] of [...places].sort(([, a], [, b]) => a.x - b.x)) {
    const at = columns.at(-1);
    if (at && place.x < at.right + stub) {
      at.right = Math.max(at.right, place.x + place.width);
      at.ids.push(id);
    } else columns.push({ left: place.x, right: place.x + place.width, ids: [id] });
  }
  return columns;
}

/** How many links lead across each cut: before the first column, before the second, and so on. */
function crossings(columns: number, links: readonly (readonly [number, number])[]): number[] {
  // Each link is counted where it begins to cross, and taken off behind the last cut that it crosses.
  const change = new Array<number>(columns + 1).fill(0);
  for (const [from, to] of links) {
    if (from >= to) continue;
    change[from + 1] = (change[from + 1] ?? 0) + 1;
    change[to + 1] = (change[to + 1] ?? 0) - 1;
  }
  let across = 0;
  return change.map((c) => (across += c));
}

/** The first column of each row, so that rows are full, few, and few gates lead from one to the next. */
function cut(columns: readonly Column[], width: number, crossing: readonly number[]): number[] {
  const best: { cost: number; begin: number }[] = [{ cost: 0, begin: 0 }];
  for (let end = 1; end <= columns.length; end++) {
    let found = { cost: Infinity, begin: 0 };
    for (let begin = end - 1; begin >= 0; begin--) {
      const used = (columns[end - 1]?.right ?? 0) - (columns[begin]?.left ?? 0);
      if (used > width * tolerance && begin < end - 1) break;
      const across = begin === 0 ? 0 : (crossing[begin] ?? 0);
      if (across > mostCrossing) continue;
      const empty = end === columns.length ? 0 : Math.max(0, 1 - used / width);
      const cost = (best[begin]?.cost ?? Infinity) + 1 + empty * empty * 2 + across * 0.35;
      if (cost < found.cost) found = { cost, begin };
    }
    best.push(found);
  }
  if (best.at(-1)?.cost === Infinity) return [0];
  const rows: number[] = [];
  for (let end = columns.length; end > 0; end = best[end]?.begin ?? 0) rows.unshift(best[end]?.begin ?? 0);
  return rows;
}

/** Puts the rows below each other, and leads the links that go from one to another. */
class Rows {
  readonly #row = new Map<string, number>();
  readonly #places = new Map<string, Place>();
  readonly #routes = new Map<string, Route>();
  readonly #crossings: ScopeLink[];
  /** Where each row ends at the right. */
  readonly #ends: number[] = [];
  /** Heights of the lanes that links take below each row, as they are taken. */
  readonly #lanes: number[] = [];
  readonly #left: number;
  /** Where each row begins, from above. */
  readonly #tops: number[] = [];

  constructor(
    columns: readonly Column[],
    rows: readonly number[],
    links: readonly ScopeLink[],
    readonly before: Layout,
  ) {
    rows.forEach((begin, row) =>
      columns
        .slice(begin, rows[row + 1] ?? columns.length)
        .forEach((c) => c.ids.forEach((id) => this.#row.set(id, row))),
    );
    this.#crossings = links.filter((l) => this.#row.get(l.from) !== this.#row.get(l.to));
    // Those that pass a row by do so at the left of all.
    const passing = this.#crossings.filter((c) => this.#rowOf(c.to) > this.#rowOf(c.from) + 1).length;
    this.#left = 2 * stub + 12 * passing;
    let y = 0;
    rows.forEach((begin, row) => {
      const x = this.#left - (columns[begin]?.left ?? 0);
      this.#tops.push(y);
      y = this.#placeRow(row, x, y, links) + this.#roomBelow(row);
    });
  }

  layout(): Layout {
    let passed = 0;
    for (const crossing of this.#ordered()) {
      const passes = this.#rowOf(crossing.to) > this.#rowOf(crossing.from) + 1;
      this.#routes.set(crossing.id, this.#lead(crossing, passes ? stub + 12 * passed++ : null));
    }
    return { places: this.#places, routes: this.#routes, rows: this.#tops };
  }

  #rowOf(id: string) {
    return this.#row.get(id) ?? 0;
  }

  /** Moves the steps of a row, and the links within it; gives where it ends. */
  #placeRow(row: number, x: number, y: number, links: readonly ScopeLink[]): number {
    const ids = [...this.#row].filter(([, r]) => r === row).map(([id]) => id);
    const within = links.filter((l) => this.#rowOf(l.from) === row && this.#rowOf(l.to) === row);
    const boxes = ids.flatMap((id) => this.before.places.get(id) ?? []);
    const routes = within.flatMap((l) => this.before.routes.get(l.id) ?? []);
    const heights = [
      ...boxes.flatMap((b) => [b.y, b.y + b.height]),
      ...routes.flatMap((r) => [...r.points.map((p) => p.y), r.gate.y - 9, r.gate.y + 28]),
    ];
    const by = { x, y: y - Math.min(...heights) };
    for (const id of ids) {
      const place = this.before.places.get(id);
      if (place) this.#places.set(id, { ...place, x: place.x + by.x, y: place.y + by.y });
    }
    for (const link of within) {
      const route = this.before.routes.get(link.id);
      if (route) this.#routes.set(link.id, moveRoute(route, by));
    }
    const bottom = Math.max(...heights) + by.y;
    this.#ends.push(Math.max(...boxes.map((b) => b.x + b.width)) + x);
    this.#lanes.push(bottom + margin);
    return bottom;
  }

  /** What links need between a row and the next one. */
  #roomBelow(row: number): number {
    const lanes = this.#crossings.flatMap((c) => [
      ...(this.#rowOf(c.from) === row ? [laneHeight(c)] : []),
      ...(this.#rowOf(c.to) === row + 1 && this.#rowOf(c.from) < row ? [laneHeight({ label: "" })] : []),
    ]);
    return lanes.reduce((sum, h) => sum + h, 2 * margin);
  }

  /** A link of its own height below a row. */
  #lane(row: number, height: number): number {
    const y = (this.#lanes[row] ?? 0) + 9;
    this.#lanes[row] = y - 9 + height;
    return y;
  }

  /** Those that come from below take the lanes nearer to the row: so they cross the fewest. */
  #ordered(): ScopeLink[] {
    const bottom = (c: ScopeLink) => {
      const place = this.#places.get(c.from);
      return (place?.y ?? 0) + (place?.height ?? 0) / 2;
    };
    return [...this.#crossings].sort((a, b) => bottom(b) - bottom(a));
  }

  #isFree(x1: number, y1: number, x2: number, y2: number, row: number, but: string): boolean {
    return ![...this.#places].some(
      ([id, p]) =>
        id !== but &&
        this.#rowOf(id) === row &&
        p.x < Math.max(x1, x2) + 4 &&
        p.x + p.width > Math.min(x1, x2) - 4 &&
        p.y < Math.max(y1, y2) + 4 &&
        p.y + p.height > Math.min(y1, y2) - 4,
    );
  }

  #lead(crossing: ScopeLink, passBy: number | null): Route {
    const [source, target] = [this.#places.get(crossing.from), this.#places.get(crossing.to)];
    const [from, to] = [this.#rowOf(crossing.from), this.#rowOf(crossing.to)];
    if (!source || !target) return { points: [], gate: { x: 0, y: 0 } };
    const start = { x: source.x + source.width, y: source.y + source.height / 2 };
    const end = { x: target.x, y: target.y + target.height / 2 };
    const lane = this.#lane(from, laneHeight(crossing));
    // Down at once where nothing stands below, else along to the end of the row.
    const down = start.x + stub;
    const along = (this.#ends[from] ?? start.x) + stub;
    const out =
      this.#isFree(down, start.y, down, lane, from, crossing.from) ||
      !this.#isFree(start.x, start.y, along, start.y, from, crossing.from)
        ? down
        : along;
    const drop = end.x - stub;
    const last = passBy === null ? lane : this.#lane(to - 1, laneHeight({ label: "" }));
    const points: Point[] = [
      start,
      { x: out, y: start.y },
      { x: out, y: lane },
      ...(passBy === null
        ? []
        : [
            { x: passBy, y: lane },
            { x: passBy, y: last },
          ]),
      // Where something stands above the target, it is reached from the left.
      ...(this.#isFree(drop, last, drop, end.y, to, crossing.to)
        ? [{ x: drop, y: last }]
        : [
            { x: this.#left - stub, y: last },
            { x: this.#left - stub, y: end.y },
            { x: drop, y: end.y },
          ]),
      { x: drop, y: end.y },
      end,
    ];
    const half = labelWidth(crossing.label) / 2 + 12;
    const stop = passBy ?? drop;
    const gate = out - stop > 2 * half ? out - half : (out + stop) / 2;
    return { points, gate: { x: gate, y: lane }, corners: true };
  }
}

const laneHeight = ({ label }: { label: string }) => (label === "" ? 24 : 40);
