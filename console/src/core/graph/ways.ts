import { labelWidth, type Place, type Point, type Route } from "./places";

/** A part of the canvas. */
export interface Area {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** How far a link goes from a step before it turns, in pixels. */
const stub = 18;

/** How near a link comes to a step that it passes, in pixels. */
const near = 7;

/** How far two links that go the same way are apart, in pixels. */
const apart = 12;

/**
 * The way of a link from the right side of a step to the left side of another around all that stand between, with a
 * place for its gate where no other gate is. Null where there is none.
 * @param marks what other gates cover
 * @param routes the ways of others: none runs on another, where that can be
 */
export function wayBetween(
  link: { from: string; to: string; label: string },
  places: ReadonlyMap<string, Place>,
  marks: readonly Area[],
  routes: readonly Route[],
): Route | null {
  const [source, target] = [places.get(link.from), places.get(link.to)];
  if (!source || !target) return null;
  const start = { x: source.x + source.width, y: source.y + source.height / 2 };
  const end = { x: target.x, y: target.y + target.height / 2 };
  const boxes = [...places].flatMap(([id, p]) => (id === link.from || id === link.to ? [] : [areaOf(p)]));
  const ends = [areaOf(source), areaOf(target)];
  const lanes = routes.filter((r) => r.corners).flatMap((r) => segments(r.points).filter(isLevel));
  const covered = [...marks, ...boxes, ...ends];
  const curve = curveBetween(start, end);
  if (curve && isFree([boxBetween(start, end)], boxes) && !meets(markAt(curve.gate, link.label), covered)) return curve;
  let second: Route | null = null;
  for (const points of tries(start, end, [...boxes, ...ends])) {
    const parts = segments(points);
    // The two steps themselves are left and reached at their sides only.
    if (!isFree(parts, boxes) || !isFree(parts.slice(1, -1), ends)) continue;
    const gate = gateOn(parts, link.label, covered);
    if (!gate) continue;
    const way = { points, gate, corners: true };
    if (!runsOnAnother(parts, lanes)) return way;
    second ??= way;
  }
  return second;
}

/** What the bar and the words of a gate cover, about. */
export const markAt = ({ x, y }: Point, label: string): Area => ({
  left: x - labelWidth(label) / 2,
  right: x + labelWidth(label) / 2,
  top: y - 10,
  bottom: y + (label === "" ? 10 : 30),
});

/** As links are drawn between steps that stand beside each other. */
function curveBetween(start: Point, end: Point): Route | null {
  const half = (end.x - start.x) / 2;
  if (half < stub) return null;
  return {
    points: [start, { x: start.x + half, y: start.y }, { x: end.x - half, y: end.y }, end],
    gate: { x: start.x + half, y: (start.y + end.y) / 2 },
  };
}

/** Bézier curves, each as a few straight parts. */
function curve(points: readonly Point[]): Point[] {
  const line: Point[] = points.slice(0, 1);
  for (let i = 0; i + 3 < points.length; i += 3) {
    const [a, b, c, d] = points.slice(i, i + 4) as [Point, Point, Point, Point];
    for (const t of [0.2, 0.4, 0.6, 0.8, 1]) {
      const weights = [(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t ** 2, t ** 3];
      const on = (of: (p: Point) => number) => [a, b, c, d].reduce((sum, p, k) => sum + (weights[k] ?? 0) * of(p), 0);
      line.push({ x: on((p) => p.x), y: on((p) => p.y) });
    }
  }
  return line;
}

/** A way as straight parts. */
export const straightParts = (route: Route): readonly Point[] => (route.corners ? route.points : curve(route.points));

/** Whether a way leads past all of some boxes. */
export const isClear = (route: Route, boxes: readonly Place[]): boolean => {
  const areas = boxes.map(areaOf);
  const line = straightParts(route);
  return !line.slice(1).some((b, i) => {
    const a = line[i] as Point;
    return areas.some((area) => cuts(a, b, area));
  });
};

/** Whether the straight line between two points comes through an area. */
function cuts(a: Point, b: Point, area: Area): boolean {
  let [from, to] = [0, 1];
  for (const [at, by, low, high] of [
    [a.x, b.x - a.x, area.left, area.right],
    [a.y, b.y - a.y, area.top, area.bottom],
  ] as const) {
    if (by === 0) {
      if (at <= low || at >= high) return false;
    } else {
      const [s, t] = [(low - at) / by, (high - at) / by];
      [from, to] = [Math.max(from, Math.min(s, t)), Math.min(to, Math.max(s, t))];
    }
  }
  return from < to;
}

/** Ways to try, the simplest first. */
function* tries(start: Point, end: Point, boxes: readonly Area[]): Generator<Point[]> {
  yield* elbows(start, end);
  yield* detours(start, end, boxes);
  yield* around(start, end, boxes);
}

/** Straight on, or with one turn between the two. */
function* elbows(start: Point, end: Point): Generator<Point[]> {
  const room = end.x - start.x - 2 * stub;
  if (room < 0) return;
  if (Math.abs(start.y - end.y) < 1) yield [start, end];
  else
    for (const part of [0.5, 0, 1, 0.25, 0.75]) {
      const x = start.x + stub + room * part;
      yield [start, { x, y: start.y }, { x, y: end.y }, end];
    }
}

/** How far from its step a link may turn, in pixels: at once, or where something stands above and below, later. */
const turns = [stub, 2 * stub, 4 * stub, 8 * stub];

/** Along above or below something that stands there, the shortest first. */
function* detours(start: Point, end: Point, boxes: readonly Area[]): Generator<Point[]> {
  const far = (y: number) => Math.abs(y - start.y) + Math.abs(y - end.y);
  const lanes = lanesBeside(boxes, [16, 30, 44], far).slice(0, 100);
  for (const out of turns)
    for (const inward of turns)
      for (const y of lanes)
        yield [
          start,
          { x: start.x + out, y: start.y },
          { x: start.x + out, y },
          { x: end.x - inward, y },
          { x: end.x - inward, y: end.y },
          end,
        ];
}

/** Out along one lane, past everything at the left, and in along another lane. */
function* around(start: Point, end: Point, boxes: readonly Area[]): Generator<Point[]> {
  const left = Math.min(...boxes.map((b) => b.left)) - 2 * stub;
  const beside = ({ y }: Point) => lanesBeside(boxes, [16, 28], (lane) => Math.abs(lane - y)).slice(0, 10);
  const [out, inward] = [start.x + stub, end.x - stub];
  for (const y1 of beside(start))
    for (const y2 of beside(end))
      for (const past of [left, left - apart, left - 2 * apart])
        yield [
          start,
          { x: out, y: start.y },
          { x: out, y: y1 },
          { x: past, y: y1 },
          { x: past, y: y2 },
          { x: inward, y: y2 },
          { x: inward, y: end.y },
          end,
        ];
}

/** Heights close above and below boxes, the least costly first. */
const lanesBeside = (boxes: readonly Area[], far: readonly number[], cost: (y: number) => number) =>
  [...new Set(boxes.flatMap((b) => far.flatMap((by) => [b.top - by, b.bottom + by])))].sort(
    (a, b) => cost(a) - cost(b),
  );

const areaOf = (p: Place): Area => ({ left: p.x, right: p.x + p.width, top: p.y, bottom: p.y + p.height });

const boxBetween = (a: Point, b: Point): Area => ({
  left: Math.min(a.x, b.x),
  right: Math.max(a.x, b.x),
  top: Math.min(a.y, b.y),
  bottom: Math.max(a.y, b.y),
});

const segments = (points: readonly Point[]): Area[] => points.slice(1).map((b, i) => boxBetween(points[i] as Point, b));

const isLevel = (segment: Area) => segment.top === segment.bottom;

const meets = (area: Area, others: readonly Area[], room = 0) =>
  others.some(
    (o) =>
      area.left < o.right + room &&
      area.right > o.left - room &&
      area.top < o.bottom + room &&
      area.bottom > o.top - room,
  );

const isFree = (parts: readonly Area[], boxes: readonly Area[]) => !parts.some((part) => meets(part, boxes, near));

/** Where the gate stands: on the longest level part that has room for its words. */
function gateOn(parts: readonly Area[], label: string, covered: readonly Area[]): Point | undefined {
  const half = labelWidth(label) / 2;
  const level = parts
    .filter((s) => isLevel(s) && s.right - s.left >= 20)
    .sort((a, b) => b.right - b.left - (a.right - a.left));
  for (const part of level) {
    const middle = (part.left + part.right) / 2;
    const room = Math.max(0, (part.right - part.left) / 2 - half - 4);
    for (let i = 0; i <= 8; i++) {
      const at = { x: middle + (room * (i % 2 === 0 ? i : -i - 1)) / 8, y: part.top };
      if (!meets(markAt(at, label), covered)) return at;
    }
  }
  return undefined;
}

const runsOnAnother = (parts: readonly Area[], lanes: readonly Area[]) =>
  parts
    .slice(1, -1)
    .some(
      (s) => isLevel(s) && lanes.some((l) => Math.abs(l.top - s.top) < apart && l.left < s.right && l.right > s.left),
    );
