import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { asElk, layoutOf } from "./elkGraph";
import { arrange } from "./scopes";

test("scopes are laid out from the inside out; a gate that leads nowhere, or comes from nowhere, is no part of it", () => {
  const { root } = new Design(
    new YamlText(
      `chain: t
steps:
  a: { kind: wait }
  box:
    kind: group
    steps: { b: { kind: wait } }
    gates: [ { from: b, to: gone } ]
gates:
  - { from: a, to: box }
  - { from: a, to: nowhere }
  - { from: gone, to: a }
`,
    ),
  );
  const scopes = arrange(root, 48, { width: 900, height: 500 });
  const inner = scopes.next();
  if (inner.done) expect.fail();
  expect([inner.value.address, inner.value.steps.map((s) => s.id), inner.value.gates]).toEqual(["box", ["b"], []]);
  const outer = scopes.next({
    places: new Map([["box/b", { x: 5, y: 7, width: 172, height: 64 }]]),
    routes: new Map(),
  });
  if (outer.done) expect.fail();
  const elk = asElk(outer.value);
  expect(elk.edges?.map((e) => e.targets)).toEqual([["box"]]);
  expect(elk.children?.map((c) => c.id)).toEqual(["a", "box"]);
  // The answer of the layout engine, as it is.
  const answer = layoutOf(outer.value, {
    ...elk,
    children: elk.children?.map((c, i) => ({ ...c, x: 300 * i, y: 10 })),
    edges: [
      {
        ...elk.edges?.[0],
        id: "0",
        sources: ["a"],
        targets: ["box"],
        sections: [
          {
            id: "s",
            startPoint: { x: 172, y: 42 },
            bendPoints: [
              { x: 200, y: 42 },
              { x: 250, y: 70 },
            ],
            endPoint: { x: 300, y: 70 },
          },
        ],
        labels: [{ text: "|", x: 220, y: 50, width: 20, height: 18 }],
      },
    ],
  });
  const done = scopes.next(answer);
  if (!done.done) expect.fail();
  // What a container holds is told relative to it, below its head.
  expect(done.value.places.get("box/b")).toMatchObject({ x: 18, y: 48 });
  expect(done.value.places.get("box")).toMatchObject({ x: 300, width: 260 });
  expect(done.value.routes.get("#0")?.gate).toEqual({ x: 230, y: 49 });
});
