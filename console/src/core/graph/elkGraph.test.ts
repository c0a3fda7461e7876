import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { asElk } from "./elkGraph";

test("a gate that leads nowhere, or comes from nowhere, is no part of the layout; the steps are", () => {
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
  const elk = asElk(root, 48);
  expect(elk.edges?.map((e) => e.targets)).toEqual([["root/box"]]);
  expect(elk.children?.map((c) => c.id)).toEqual(["root/a", "root/box"]);
  expect(elk.children?.[1]?.edges).toEqual([]);
});
