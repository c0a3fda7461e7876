import { describe, expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { quickLayout } from "../graph/quick";
import { containerHead } from "../graph/places";
import { absolutePlaces, boxesOf, wholeOf } from "./arrange";
import { dropAt, linkAt } from "./drops";
import { addBetween, putBetween } from "./operations";

const source = `chain: t
steps:
  a: { kind: wait }
  b: { kind: wait }
  box:
    kind: group
    steps:
      c: { kind: wait }
  free: { kind: wait }
gates:
  - { from: a, to: b, on: failure }
  - { from: b, to: box }
`;
const design = new Design(new YamlText(source));
const { boxes, links } = boxesOf(wholeOf(design), quickLayout(wholeOf(design), containerHead, null));
const places = absolutePlaces(boxes);
const boxOf = (id: string) => {
  const box = boxes.find((b) => b.id === id) ?? expect.fail(id);
  return { ...box, ...(places.get(id) ?? expect.fail(id)) };
};
const drop = (x: number, y: number) => dropAt(boxes, links, places, { x, y }, { width: 172, height: 64 });

describe("a step that is dropped", () => {
  test("on a step comes behind it, wherever it hits it", () => {
    const b = boxOf("b");
    const found = drop(b.x + 20, b.y + 60);
    expect([found.after?.id, found.between, found.at]).toEqual(["b", null, null]);
  });

  test("close to a step's right side comes behind it, where it was dropped", () => {
    const free = boxOf("free");
    const found = drop(free.x + free.width + 40, free.y + 30);
    expect(found.after?.id).toBe("free");
    expect(found.at).toEqual({ x: free.x + free.width + 40 - 86, y: free.y + 30 - 32 });
  });

  test("on a link comes between, and far from everything stands by itself", () => {
    const [a, b] = [boxOf("a"), boxOf("b")];
    const middle = { x: (a.x + a.width + b.x) / 2, y: (a.y + b.y) / 2 + 32 };
    expect(drop(middle.x, middle.y + 5).between?.id).toBe("#0");
    const away = drop(a.x, boxOf("box").y + 600);
    expect([away.after, away.between, away.scope]).toEqual([null, null, ""]);
  });

  test("in a container, or a little beside its edge, comes into it, at its own place there", () => {
    const box = boxOf("box");
    expect(drop(box.x - 8, box.y + 30).scope).toBe("box");
    const c = boxOf("box/c");
    const inside = drop(c.x + 86, c.y + c.height + 12);
    expect([inside.scope, inside.after]).toEqual(["box", null]);
    expect(inside.at).toEqual({ x: c.x - box.x, y: c.y - box.y + c.height + 12 - 32 });
  });
});

const gatesOf = (text: string) => new Design(new YamlText(text)).root.gates.map((g) => `${g.from} ${g.on} ${g.to}`);

test("a new step between two keeps what opened the gate, and is joined to the second", () => {
  const { text, id } = addBetween(design, "", 0, "command", null);
  expect(id).toBe("command");
  expect(gatesOf(text)).toEqual(["a failure command", "b success box", "command success b"]);
  expect(gatesOf(putBetween(design, "", 1, "free").text)).toEqual([
    "a failure b",
    "b success free",
    "free success box",
  ]);
});

test("links are found in their own scope only", () => {
  const [a, b] = [boxOf("a"), boxOf("b")];
  const middle = { x: (a.x + a.width + b.x) / 2, y: a.y + 32 };
  expect(linkAt(links, boxes, places, "box", middle)).toBeNull();
});
