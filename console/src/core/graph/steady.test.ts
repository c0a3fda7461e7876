import ELK from "elkjs/lib/elk.bundled.js";
import { describe, expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { asElk, layoutOf } from "./elkGraph";
import { containerHead, type Layout, type Place, type Point } from "./places";
import { arrange, type Pane } from "./scopes";
import { isClear } from "./ways";

type Gate = readonly [string, string, string?];

const chainOf = (steps: readonly string[], gates: readonly Gate[]) =>
  new Design(
    new YamlText(
      `chain: t\nsteps:\n${steps.map((s) => `  ${s}\n`).join("")}` +
        (gates.length === 0 ? "" : "gates:\n") +
        gates.map(([a, b, on]) => `  - { from: ${a}, to: ${b}${on ? `, on: ${on}` : ""} }\n`).join(""),
    ),
  ).root;

const named = (...ids: string[]) => ids.map((id) => `${id}: { kind: wait }`);
const thirty = named(...Array.from({ length: 30 }, (_, i) => `s${String(i)}`));

const elk = new ELK();
const pane = { width: 900, height: 560 };

async function laidOut(
  graph: ReturnType<typeof chainOf>,
  before?: Layout,
  wishes?: ReadonlyMap<string, Point>,
): Promise<Layout> {
  const seen: Pane = { ...pane, before: before?.scopes, wishes };
  const scopes = arrange(graph, containerHead, seen);
  let at = scopes.next();
  while (!at.done) at = scopes.next(layoutOf(at.value, await elk.layout(asElk(at.value))));
  return at.value;
}

/** How far each step that was there has moved, in pixels. */
const moves = (before: Layout, after: Layout) =>
  new Map(
    [...before.places].flatMap(([id, a]): [string, number][] => {
      const b = after.places.get(id);
      return b ? [[id, Math.hypot(a.x - b.x, a.y - b.y)]] : [];
    }),
  );
const farthest = (before: Layout, after: Layout) => Math.max(...moves(before, after).values());

const at = (layout: Layout, id: string) => layout.places.get(id) ?? expect.fail(id);
const meet = (a: Place, b: Place) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** Where curves are drawn past a corner they come as near as this. */
const shrunk = (p: Place) => ({ x: p.x + 3, y: p.y + 3, width: p.width - 6, height: p.height - 6 });

function expectDrawn(layout: Layout) {
  const all = [...layout.places];
  for (const [i, [a, p]] of all.entries())
    for (const [b, q] of all.slice(i + 1)) expect(meet(p, q), `${a} on ${b}`).toBe(false);
  for (const [id, route] of layout.routes) {
    for (const [step, p] of all)
      expect(meet({ ...route.gate, width: 1, height: 1 }, p), `${id} on ${step}`).toBe(false);
    const [scope, index] = id.split("#");
    const gate = layout.scopes?.get(scope ?? "")?.scope.gates.find((g) => String(g.index) === index);
    const hit = all
      .filter(([, p]) => !isClear(route, [shrunk(p)]))
      .flatMap(([step]) => (step === gate?.from || step === gate?.to ? [] : [step]));
    expect(hit, `${id} leads through a step`).toEqual([]);
  }
}

const random = (seed: number) => () => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;

/** A chain as people build them: each step waits for one shortly before it, some for another one as well. */
function gatesAmong(steps: number, next: () => number): Gate[] {
  const gates: Gate[] = [];
  for (let to = 1; to < steps; to++) {
    const from = new Set([
      Math.max(0, to - 1 - Math.floor(next() * 3)),
      ...(next() < 0.3 ? [Math.floor(next() * to)] : []),
    ]);
    for (const f of from) gates.push([`s${String(f)}`, `s${String(to)}`, next() < 0.3 ? "failure" : undefined]);
  }
  return gates;
}

const mean = (all: readonly number[]) => all.reduce((a, b) => a + b, 0) / all.length;

test("one more gate, one less, among 30 steps moves no more than it must", async () => {
  const [more, less, anew]: [number[], number[], number[]] = [[], [], []];
  for (let seed = 0; seed < 16; seed++) {
    const next = random(seed + 7);
    const gates = gatesAmong(30, next);
    const before = await laidOut(chainOf(thirty, gates));
    let [a, b] = [0, 0];
    while (a >= b || gates.some((g) => g[0] === `s${String(a)}` && g[1] === `s${String(b)}`))
      [a, b] = [Math.floor(next() * 30), Math.floor(next() * 30)];
    const graph = chainOf(thirty, [...gates, [`s${String(a)}`, `s${String(b)}`]]);
    const after = await laidOut(graph, before);
    expectDrawn(after);
    more.push(farthest(before, after));
    less.push(farthest(after, await laidOut(chainOf(thirty, gates), after)));
    anew.push(farthest(before, await laidOut(graph)));
  }
  const still = more.filter((m) => m < 1).length;
  console.log(
    `a gate among 30 steps, 16 chains: nothing moves in ${String(still)}; the step that moves farthest moves ` +
      `${mean(more).toFixed(0)} px on average, drawn anew ${mean(anew).toFixed(0)} px`,
  );
  expect(still).toBeGreaterThanOrEqual(12);
  // A gate that goes needs no room.
  expect(Math.max(...less)).toBe(0);
  // Forty-eight drawings: on a loaded machine they take their time.
}, 180_000);

describe("what an edit asks for", () => {
  const gates: Gate[] = [
    ["a", "b"],
    ["b", "c"],
    ["b", "d", "failure"],
  ];
  const steps = named("a", "b", "c", "d");

  test("a step behind another stands right of it, and nothing moves", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const after = await laidOut(chainOf([...steps, ...named("e")], [...gates, ["c", "e"]]), before);
    expect(farthest(before, after)).toBe(0);
    expect(at(after, "e").x).toBeGreaterThan(at(after, "c").x + 172);
    expect(at(after, "e").y).toBe(at(after, "c").y);
    expectDrawn(after);
  });

  test("between two that are joined the second makes room, with what is behind it", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const between: Gate[] = [["a", "e"], ["e", "b"], ...gates.slice(1)];
    const after = await laidOut(chainOf([...steps, ...named("e")], between), before);
    const by = moves(before, after);
    expect(by.get("a")).toBe(0);
    expect(by.get("b")).toBeGreaterThan(172);
    expect(by.get("c")).toBe(by.get("b"));
    expectDrawn(after);
  });

  test("a step that was dropped stands where it was dropped, and the rest stays", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const wishes = new Map([["e", { x: 40, y: 260 }]]);
    const after = await laidOut(chainOf([...steps, ...named("e")], gates), before, wishes);
    expect(at(after, "e")).toMatchObject({ x: 40, y: 260 });
    expect(farthest(before, after)).toBe(0);
  });

  test("a new name and a shorter label move nothing; a longer one makes as much room as it needs", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const renamed = await laidOut(
      chainOf(named("a", "b", "c", "x"), [...gates.slice(0, 2), ["b", "x", "failure"]]),
      before,
    );
    expect(at(renamed, "x")).toEqual(at(before, "d"));
    expect(farthest(before, renamed)).toBe(0);
    const longer = await laidOut(chainOf(steps, [["a", "b", "completion"], ...gates.slice(1)]), before);
    const by = moves(before, longer);
    expect(by.get("a")).toBe(0);
    expect(by.get("b")).toBeGreaterThan(20);
    expect(by.get("b")).toBeLessThan(120);
    expect(
      moves(
        before,
        await laidOut(
          chainOf(steps, [
            ["a", "b"],
            ["b", "c"],
            ["b", "d"],
          ]),
          before,
        ),
      ).get("d"),
    ).toBe(0);
  });

  test("a gate between two that stand above each other moves the second, and what waits for it, to the right", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const after = await laidOut(chainOf(steps, [...gates, ["c", "d"]]), before);
    expect(moves(before, after).get("c")).toBe(0);
    expect(at(after, "d").x).toBeGreaterThan(at(after, "c").x + 172);
    expectDrawn(after);
  });

  test("a container that grows pushes what stands behind it, and a step put into it stays in it", async () => {
    const box = (inner: string) => [...named("a"), `box: { kind: group, steps: { ${inner} } }`, ...named("c")];
    const joined: Gate[] = [
      ["a", "box"],
      ["box", "c"],
    ];
    const before = await laidOut(chainOf(box("x: { kind: wait }, y: { kind: wait }"), joined));
    const after = await laidOut(
      chainOf(box("x: { kind: wait }, y: { kind: wait }, z: { kind: wait }"), joined),
      before,
    );
    const grown = at(after, "box").width - at(before, "box").width;
    expect(at(after, "c").x - at(before, "c").x).toBeCloseTo(Math.max(0, grown));
    expect(moves(before, after).get("a")).toBe(0);
    expect(moves(before, after).get("box/x")).toBe(0);
    const [z, outer] = [at(after, "box/z"), at(after, "box")];
    expect(z.x + z.width).toBeLessThan(outer.width);
    expect(z.y + z.height).toBeLessThan(outer.height);
  });

  test("another chain altogether is drawn anew", async () => {
    const before = await laidOut(chainOf(steps, gates));
    const other = chainOf(named("p", "q", "r"), [
      ["p", "q"],
      ["q", "r"],
    ]);
    expect((await laidOut(other, before)).places).toEqual((await laidOut(other)).places);
  });
});
