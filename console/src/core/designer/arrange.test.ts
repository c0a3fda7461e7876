import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { quickLayout } from "../graph/quick";
import { absolutePlaces, align, boxesOf, placeBeside, placesOfScope, shapeOf, walk, withFolded } from "./arrange";
import { parametersOf } from "./parameters";

const file = (extra = "") => `chain: t
params:
  day: { type: timestamp, label: Day }
  most: { type: int, default: 0 }
steps:
  a: { kind: wait }
  b: { kind: wait }
  c:
    kind: group
    steps: { x: { kind: wait }, y: { kind: wait } }
    gates: [ { from: x, to: y } ]
  d: { kind: wait }
gates:
  - { from: a, to: b }
  - { from: a, to: c, on: failure }
  - { from: b, to: d }
${extra}`;
const designOf = (text: string) => new Design(new YamlText(text));
const design = designOf(file());
const layout = (of: Design) => boxesOf(of.root, { places: quickLayout(of.root, 40, null).places, routes: new Map() });
const { boxes } = layout(design);
const at = (id: string) => boxes.find((b) => b.id === id) ?? expect.fail(id);

test("arrow keys go along gates, and to neighbours above and below", () => {
  expect(walk(design, boxes, null, "right")).toBe(boxes[0]?.id);
  expect(walk(design, boxes, "b", "left")).toBe("a");
  expect(walk(design, boxes, "b", "right")).toBe("d");
  expect(["b", "c"]).toContain(walk(design, boxes, "a", "right"));
  const [upper, lower] = at("b").y < at("c").y ? ["b", "c"] : ["c", "b"];
  expect(walk(design, boxes, upper ?? "", "down")).toBe(lower);
  expect(walk(design, boxes, lower ?? "", "up")).toBe(upper);
  expect(walk(design, boxes, "c/x", "right")).toBe("c/y");
  expect(walk(design, boxes, "c/y", "right")).toBeNull();
});

test("a container reaches around what it holds, also when that was moved", () => {
  const holds = (outer: (typeof boxes)[number], inner: (typeof boxes)[number]) =>
    inner.x + inner.width < outer.width && inner.y + inner.height < outer.height;
  expect(holds(at("c"), at("c/y"))).toBe(true);
  const places = new Map(quickLayout(design.root, 40, null).places);
  places.set("c/y", { ...(places.get("c/y") ?? expect.fail()), x: 700, y: 400 });
  const moved = boxesOf(design.root, { places, routes: new Map() }).boxes;
  const [outer, inner] = ["c", "c/y"].map((id) => moved.find((b) => b.id === id) ?? expect.fail());
  expect(outer && inner && holds(outer, inner)).toBe(true);
});

test("places in the whole drawing count the containers in", () => {
  const whole = absolutePlaces(boxes);
  expect(whole.get("c/x")).toEqual({ x: at("c").x + at("c/x").x, y: at("c").y + at("c/x").y });
  expect([...placesOfScope(boxes, "c").keys()]).toEqual(["c/x", "c/y"]);
});

test("a new step stands beside the one before where a scope is arranged by hand, and never on another", () => {
  expect(placeBeside(design, boxes, "", "a")).toBeNull();
  const byHand = designOf(file("layout:\n  a: [0, 0]\n  b: [300, 0]\n  c: [900, 0]\n  d: [2000, 0]\n"));
  expect(byHand.placed.has("a")).toBe(true);
  const drawn = layout(byHand).boxes.map((b) =>
    b.id === "a" ? { ...b, x: 0, y: 0 } : b.id === "b" ? { ...b, x: b.width + 50, y: 0 } : b,
  );
  const [x, y] = placeBeside(byHand, drawn, "", "a") ?? expect.fail("no place");
  const a = drawn.find((b) => b.id === "a");
  expect(x).toBe((a?.width ?? 0) + 50);
  expect(drawn.some((b) => (b.parent ?? "") === "" && Math.abs(b.x - x) < 10 && Math.abs(b.y - y) < 10)).toBe(false);
});

test("steps are brought in line by their left or upper edges", () => {
  const left = align(boxes, ["b", "d"], "left");
  expect([...left.values()].map(([x]) => x)).toEqual([at("b").x, at("b").x].map((x) => Math.min(x, at("d").x)));
  expect(new Set([...align(boxes, ["a", "b", "d"], "top").values()].map(([, y]) => y)).size).toBe(1);
});

test("a folded container is a step that tells how many it holds; the shape changes with what is drawn, not with settings", () => {
  const folded = withFolded(design.root, new Set(["c"]));
  expect(folded.steps.find((s) => s.id === "c")).toMatchObject({ inner: null, note: "2 inside" });
  expect(shapeOf(folded)).not.toBe(shapeOf(design.root));
  expect(shapeOf(designOf(file().replace("a: { kind: wait }", "a: { kind: wait, set: { for: 5s } }")).root)).toBe(
    shapeOf(design.root),
  );
  const other = designOf(file().replace("on: failure", "on: skipped")).root;
  expect(shapeOf(other)).not.toBe(shapeOf(design.root));
});

test("the parameters of a draft are read off its file", () => {
  expect(parametersOf(design)).toEqual([
    { name: "day", type: "timestamp", label: "Day", required: true, default: null, secret: false },
    { name: "most", type: "int", label: null, required: false, default: 0, secret: false },
  ]);
  expect(parametersOf(designOf("chain: t\nparams: { x: }\n"))).toEqual([
    { name: "x", type: "any", label: null, required: true, default: null, secret: false },
  ]);
});
