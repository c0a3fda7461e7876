import type { Box, Link } from "../graph/flow";
import type { Point } from "../graph/places";
import { straightParts } from "../graph/ways";
import { isIn } from "./arrange";

/** What a step that is dropped at a point is meant for. */
export interface Drop {
  /** The container it comes into; empty for the chain itself. */
  scope: string;
  /** The step it comes behind: dropped on it, or close to its right side. */
  after: Box | null;
  /** The gate it comes between; then there is no step it comes behind. */
  between: Link | null;
  /** Where it stands in its container, when it was not dropped on a step. */
  at: Point | null;
}

/** How far right of a step one may drop another to have it behind that, in pixels. */
const reach = 64;

/** How far beside a link one may be to mean it, in pixels. */
const aim = 12;

/** What a drop at a point of the drawing means. */
export function dropAt(
  boxes: readonly Box[],
  links: readonly Link[],
  places: ReadonlyMap<string, Point>,
  point: Point,
  size: { width: number; height: number },
): Drop {
  const scope = scopeAt(boxes, places, point);
  const origin = places.get(scope) ?? { x: 0, y: 0 };
  const here = { x: point.x - origin.x, y: point.y - origin.y };
  const siblings = boxes.filter((b) => (b.parent ?? "") === scope);
  const onto = siblings.find((b) => isIn(b, b, here));
  const between = onto ? null : linkAt(links, boxes, places, scope, point);
  const beside = siblings
    .filter((b) => here.x >= b.x + b.width && here.x <= b.x + b.width + reach)
    .filter((b) => here.y >= b.y && here.y <= b.y + Math.max(b.height, size.height));
  return {
    scope,
    after: onto ?? (between ? null : (beside.sort((a, b) => b.x + b.width - (a.x + a.width))[0] ?? null)),
    between,
    at: onto ? null : { x: here.x - size.width / 2, y: here.y - size.height / 2 },
  };
}

/**
 * The innermost container at a point; its edge is meant, too, when somebody lets go a little beside it.
 * @param except what is being moved: nothing is put into itself
 */
export function scopeAt(
  boxes: readonly Box[],
  places: ReadonlyMap<string, Point>,
  point: Point,
  except: readonly string[] = [],
): string {
  const inside = boxes
    .filter((b) => b.step.inner && !except.some((e) => b.id === e || b.id.startsWith(`${e}/`)))
    .filter((b) => isIn(b, places.get(b.id) ?? b, point, 14));
  return inside.sort((a, b) => b.id.length - a.id.length)[0]?.id ?? "";
}

/** The link of a scope at a point. */
export function linkAt(
  links: readonly Link[],
  boxes: readonly Box[],
  places: ReadonlyMap<string, Point>,
  scope: string,
  point: Point,
): Link | null {
  const own = links.filter((l) => l.scope === scope);
  const sizes = new Map(boxes.map((b) => [b.id, b]));
  const near = own.map((link) => ({ link, far: farFrom(point, lineOf(link, sizes, places)) }));
  return near.filter((n) => n.far <= aim).sort((a, b) => a.far - b.far)[0]?.link ?? null;
}

/** The way of a link as straight parts. */
function lineOf(link: Link, sizes: ReadonlyMap<string, Box>, places: ReadonlyMap<string, Point>): readonly Point[] {
  if (link.route) return straightParts(link.route);
  const [from, to] = [sizes.get(link.source), sizes.get(link.target)];
  const [a, b] = [places.get(link.source), places.get(link.target)];
  if (!from || !to || !a || !b) return [];
  return [
    { x: a.x + from.width, y: a.y + from.height / 2 },
    { x: b.x, y: b.y + to.height / 2 },
  ];
}

/** How far a point is from a line of straight parts. */
function farFrom(point: Point, line: readonly Point[]): number {
  let least = Infinity;
  for (let i = 1; i < line.length; i++) {
    const [a, b] = [line[i - 1] as Point, line[i] as Point];
    const length = (b.x - a.x) ** 2 + (b.y - a.y) ** 2;
    const along = length === 0 ? 0 : ((point.x - a.x) * (b.x - a.x) + (point.y - a.y) * (b.y - a.y)) / length;
    const t = Math.min(1, Math.max(0, along));
    least = Math.min(least, Math.hypot(point.x - a.x - t * (b.x - a.x), point.y - a.y - t * (b.y - a.y)));
  }
  return least;
}
