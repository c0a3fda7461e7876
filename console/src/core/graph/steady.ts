import { isClear, markAt, wayBetween } from "./ways";
import {
  labelWidth,
  linksOf,
  moveRoute,
  type Drawn,
  type FlatScope,
  type Layout,
  type Place,
  type Point,
  type Route,
  type ScopeLink,
} from "./places";

/** The room that a gate needs beside its label, in pixels. */
const beside = 22;

const gapY = 26;

/** Of so many steps in a scope it takes too long to find ways around them. */
const many = 80;

/**
 * The drawing after an edit, with as little moved as the edit asks for: steps stay, new ones stand behind what they
 * wait for, and only what is in the way makes room. Null where little is as it was, or where there is no room that
 * way: then it is for the layout to draw anew.
 * @param wishes where new steps were dropped, by address
 */
export function steady(scope: FlatScope, before: Drawn, wishes: ReadonlyMap<string, Point>): Layout | null {
  const places = keptPlaces(scope, before);
  const fresh = scope.steps.filter((s) => !places.has(s.address));
  if (places.size === 0 || fresh.length > Math.max(1, places.size / 4)) return null;
  const edit = new Edit(scope, before, places);
  edit.grow();
  for (const step of fresh) edit.put(step, wishes.get(step.address));
  return edit.makeRoom() && !edit.overlaps() ? edit.drawn() : null;
}

/** Places of the steps that were there before; one that was renamed is still where it was. */
function keptPlaces(scope: FlatScope, { scope: old, layout }: Drawn): Map<string, Place> {
  const now = new Set(scope.steps.map((s) => s.address));
  const gone = old.steps.filter((s) => !now.has(s.address));
  const come = scope.steps.filter((s) => !layout.places.has(s.address));
  const [was, is] = [gone[0], come[0]];
  const renamed =
    gone.length === 1 &&
    come.length === 1 &&
    old.steps.length === scope.steps.length &&
    was !== undefined &&
    is !== undefined &&
    old.steps.indexOf(was) === scope.steps.indexOf(is);
  return new Map(
    scope.steps.flatMap(({ address }): [string, Place][] => {
      const place = layout.places.get(renamed && address === is.address ? was.address : address);
      return place ? [[address, { ...place }]] : [];
    }),
  );
}

const right = (p: Place) => p.x + p.width;
const bottom = (p: Place) => p.y + p.height;

/** One edit of a drawing: places move while room is made. */
class Edit {
  readonly #gates: ScopeLink[];
  /** Where each step was; for one that was not there, where it was put. */
  readonly #from = new Map<string, Point>();
  readonly #rows: number[];
  readonly #grown = new Set<string>();

  constructor(
    readonly scope: FlatScope,
    readonly before: Drawn,
    readonly places: Map<string, Place>,
  ) {
    this.#gates = linksOf(scope);
    this.#rows = [...(before.layout.rows ?? [])];
    for (const [id, { x, y }] of places) this.#from.set(id, { x, y });
  }

  /** Containers that have grown push what stands right of them and below. */
  grow(): void {
    for (const step of this.scope.steps) {
      const place = this.places.get(step.address);
      if (!place) continue;
      const [wider, higher] = [step.width - place.width, step.height - place.height];
      if (wider > 0) this.#push(this.#rowOf(place), right(place), wider);
      if (higher > 0) this.#lower(bottom(place), higher);
      if (wider !== 0 || higher !== 0) this.#grown.add(step.address);
      [place.width, place.height] = [step.width, step.height];
    }
  }

  /** A new step: where it was dropped, else behind what it waits for, else before what waits for it. */
  put(step: FlatScope["steps"][number], wish: Point | undefined): void {
    const { width, height } = step;
    const at = wish ?? this.#spotFor(step.address, width, height);
    const place = { x: Math.round(at.x), y: Math.round(at.y), width, height };
    const others = [...this.places.values()];
    // Down to where nothing stands.
    for (let hit = inTheWay(place, others); hit; hit = inTheWay(place, others)) place.y = bottom(hit) + gapY;
    // It stays in its row: the next ones make room.
    const next = this.#rows[this.#rowOf(at) + 1];
    if (next !== undefined && bottom(place) + gapY > next) this.#lower(next, bottom(place) + gapY - next);
    this.places.set(step.address, place);
    this.#from.set(step.address, { x: place.x, y: place.y });
  }

  #spotFor(address: string, width: number, height: number): Point {
    const sources = this.#gates.filter((g) => g.to === address && this.places.has(g.from));
    const targets = this.#gates.filter((g) => g.from === address).flatMap((g) => this.places.get(g.to) ?? []);
    const ends = sources.map((g) => {
      const place = this.places.get(g.from);
      return { place, x: place ? right(place) + labelWidth(g.label) + beside : 0 };
    });
    const last = ends.sort((a, b) => b.x - a.x)[0];
    if (last?.place) {
      const spot = { x: last.x, y: last.place.y + (last.place.height - height) / 2 };
      // Between two steps that were joined, the second makes room.
      const next = targets.find((t) => overlapY(t, { ...spot, width, height }) && t.x >= right(last.place as Place));
      if (next) {
        this.#push(this.#rowOf(next), next.x, spot.x + width + labelWidth("") + beside - next.x);
      }
      return spot;
    }
    const first = targets.sort((a, b) => a.x - b.x)[0];
    if (first) return { x: first.x - width - labelWidth("") - beside, y: first.y };
    const all = [...this.places.values()];
    return { x: Math.min(...all.map((p) => p.x)), y: Math.max(...all.map(bottom)) + gapY };
  }

  /** Steps that wait for others stand right of them, with room for the gate; false where that has no end. */
  makeRoom(): boolean {
    for (let pass = 0; pass < this.scope.steps.length + 1; pass++) {
      let moved = false;
      for (const gate of this.#gates) {
        const [from, to] = [this.places.get(gate.from), this.places.get(gate.to)];
        if (!from || !to) continue;
        const row = this.#rowOf(from);
        if (this.#rowOf(to) > row) continue;
        // Nobody looks for what comes next in an earlier row.
        if (this.#rowOf(to) < row) return false;
        const missing = right(from) + labelWidth(gate.label) + beside - to.x;
        if (missing <= 6) continue;
        moved = true;
        if (to.x >= right(from)) this.#push(row, to.x, missing);
        else {
          const after = this.#behind(gate.to);
          for (const [id, place] of this.places) if (after.has(id) && this.#rowOf(place) === row) place.x += missing;
        }
      }
      if (!moved) return true;
    }
    return false;
  }

  /** Everything in a row from a place on moves to the right. */
  #push(row: number, from: number, by: number) {
    if (by <= 0) return;
    for (const place of this.places.values()) if (place.x >= from - 1 && this.#rowOf(place) === row) place.x += by;
  }

  /** Everything from a height on moves down. */
  #lower(from: number, by: number) {
    for (const place of this.places.values()) if (place.y >= from - 1) place.y += by;
    this.#rows.forEach((top, i) => {
      if (top >= from - 1) this.#rows[i] = top + by;
    });
  }

  /** Which row a place is in; a drawing that was not wrapped is one row. */
  #rowOf = ({ y }: Point) =>
    Math.max(
      0,
      this.#rows.findLastIndex((top) => top <= y + 1),
    );

  /** A step and all that wait for it. */
  #behind(address: string): Set<string> {
    const found = new Set([address]);
    for (let size = 0; size !== found.size;) {
      size = found.size;
      for (const gate of this.#gates) if (found.has(gate.from)) found.add(gate.to);
    }
    return found;
  }

  overlaps(): boolean {
    const all = [...this.places.values()].sort((a, b) => a.x - b.x);
    return all.some((a, i) => {
      for (let j = i + 1; j < all.length; j++) {
        const b = all[j];
        if (!b || b.x >= right(a)) return false;
        if (overlapY(a, b)) return true;
      }
      return false;
    });
  }

  /** Ways that were there go with their steps; new ones lead around what stands between. */
  drawn(): Layout | null {
    const was = new Map(linksOf(this.before.scope).map((g) => [`${g.from} ${g.to} ${g.label}`, g.id]));
    const routes = new Map<string, Route>();
    const open: ScopeLink[] = [];
    const boxes = [...this.places];
    for (const gate of this.#gates) {
      const old = was.get(`${gate.from} ${gate.to} ${gate.label}`);
      const [a, b] = [this.#moved(gate.from), this.#moved(gate.to)];
      if (old === undefined || !a || !b || Math.abs(a.x - b.x) + Math.abs(a.y - b.y) > 1) {
        open.push(gate);
        continue;
      }
      const route = this.before.layout.routes.get(old);
      if (!route) continue;
      const moved = moveRoute(route, a);
      if (
        isClear(
          moved,
          boxes.flatMap(([id, p]) => (id === gate.from || id === gate.to ? [] : [p])),
        )
      )
        routes.set(gate.id, moved);
      else open.push(gate);
    }
    const marks = this.#gates.flatMap((g) => {
      const gate = routes.get(g.id)?.gate;
      return gate ? [markAt(gate, g.label)] : [];
    });
    for (const gate of open) {
      // Of very many steps a link beside others is drawn from one to the other, as it is when they are drawn anew.
      if (boxes.length > many && this.#isInOneRow(gate)) continue;
      const way = wayBetween(gate, this.places, marks, [...routes.values()]);
      if (way === null) return null;
      marks.push(markAt(way.gate, gate.label));
      routes.set(gate.id, way);
    }
    return { places: this.places, routes, rows: this.#rows };
  }

  #isInOneRow({ from, to }: ScopeLink): boolean {
    const [a, b] = [this.places.get(from), this.places.get(to)];
    return !!a && !!b && this.#rowOf(a) === this.#rowOf(b);
  }

  /** How far a step was moved; nothing when it is new, or of another size. */
  #moved(id: string): Point | undefined {
    if (this.#grown.has(id)) return undefined;
    const [from, to] = [this.#from.get(id), this.places.get(id)];
    const old = this.before.layout.places.has(id) ? from : undefined;
    return old && to ? { x: to.x - old.x, y: to.y - old.y } : undefined;
  }
}

const overlapY = (a: Place, b: Place) => a.y < bottom(b) && bottom(a) > b.y;

const inTheWay = (place: Place, others: readonly Place[]) =>
  others.find(
    (o) => place.x < right(o) + 8 && right(place) + 8 > o.x && place.y < bottom(o) + 8 && bottom(place) + 8 > o.y,
  );
