import { describe, expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { absolutePlaces } from "../designer/arrange";
import { drawing } from "./flow";
import { labelWidth } from "./places";
import { quickLayout } from "./quick";

const chainOf = (steps: number, gates: [number, number, string?][]) =>
  new Design(
    new YamlText(
      `chain: t\nsteps:\n${Array.from({ length: steps }, (_, i) => `  s${String(i)}: { kind: wait }\n`).join("")}` +
        (gates.length === 0 ? "" : "gates:\n") +
        gates.map(([a, b, on]) => `  - { from: s${String(a)}, to: s${String(b)}${on ?? ""} }\n`).join(""),
    ),
  ).root;

const line = (steps: number): [number, number][] => Array.from({ length: steps - 1 }, (_, i) => [i, i + 1]);

const drawn = (graph: ReturnType<typeof chainOf>, width: number) => {
  const layout = quickLayout(graph, 48, { width, height: 0.6 * width });
  return { ...drawing(graph, layout.places, layout.routes), layout };
};

describe("a drawing that is wider than its pane", () => {
  test("is wrapped into rows, in the order of reading", () => {
    const { boxes, layout } = drawn(chainOf(9, line(9)), 900);
    const at = (id: string) => layout.places.get(id) ?? expect.fail(id);
    const ys = [...new Set(boxes.map((b) => b.y))];
    expect(ys.length).toBeGreaterThan(1);
    for (let i = 1; i < 9; i++) {
      const [before, next] = [at(`s${String(i - 1)}`), at(`s${String(i)}`)];
      expect(next.y > before.y || (next.y === before.y && next.x > before.x)).toBe(true);
    }
    // It is seen bigger than in one row.
    expect(Math.max(...boxes.map((b) => b.x + b.width))).toBeLessThan(1400);
  });

  test("is left as it is where it fits, and where too many gates would have to be led on", () => {
    const fits = drawn(chainOf(3, line(3)), 900);
    expect(new Set(fits.boxes.map((b) => b.y)).size).toBe(1);
    const wide = chainOf(
      16,
      Array.from({ length: 8 }, (_, i): [number, number] => [i, i + 8]),
    );
    expect(new Set(drawn(wide, 300).boxes.map((b) => b.x)).size).toBe(2);
  });
});

// Chains of many shapes, the same ones in every run.
const random = (seed: number) => () => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;
const shapes = Array.from({ length: 40 }, (_, seed) => {
  const next = random(seed + 7);
  const steps = 4 + Math.floor(next() * 20);
  const gates: [number, number, string?][] = [];
  for (let to = 1; to < steps; to++) {
    const from = new Set([
      Math.max(0, to - 1 - Math.floor(next() * 3)),
      ...(next() < 0.3 ? [Math.floor(next() * to)] : []),
    ]);
    for (const f of from) gates.push([f, to, next() < 0.3 ? ", on: failure" : undefined]);
  }
  return { steps, gates, width: 500 + Math.floor(next() * 900) };
});

test.each(shapes)("of $steps steps in $width pixels nothing overlaps, and no gate stands on a step", (shape) => {
  const { boxes, links } = drawn(chainOf(shape.steps, shape.gates), shape.width);
  expect(boxes).toHaveLength(shape.steps);
  const at = absolutePlaces(boxes);
  const places = boxes.map((b) => ({ ...b, ...(at.get(b.id) ?? expect.fail()) }));
  for (const a of places)
    for (const b of places)
      if (a !== b)
        expect(
          a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y,
          `${a.id} and ${b.id}`,
        ).toBe(true);
  for (const link of links) {
    const [from, to] = [places.find((p) => p.id === link.source), places.find((p) => p.id === link.target)];
    if (!link.route || !from || !to) continue;
    // It begins and ends at its steps, and is a way without slopes.
    expect(link.route.points[0]).toEqual({ x: from.x + from.width, y: from.y + from.height / 2 });
    expect(link.route.points.at(-1)).toEqual({ x: to.x, y: to.y + to.height / 2 });
    link.route.points.slice(1).forEach((p, i) => {
      const before = link.route?.points[i];
      expect(before?.x === p.x || before?.y === p.y).toBe(true);
    });
    const half = labelWidth(link.gate.label) / 2;
    const { x, y } = link.route.gate;
    for (const p of places)
      expect(
        x + half <= p.x || x - half >= p.x + p.width || y + 9 <= p.y || y - 9 >= p.y + p.height,
        `the gate of ${link.id} on ${p.id}`,
      ).toBe(true);
  }
});
