import { expect, test } from "vitest";
import { childSource, renamedSource, titleOf } from "./newChain";

test.each([
  ["milk-intake", "Milk intake"],
  ["loadPrices", "Load Prices"],
  ["x", "X"],
])("the title of %s", (name, title) => expect(titleOf(name)).toBe(title));

test("a chain for a call takes what the call gives", () =>
  expect(
    childSource("depot-load", { day: "params.day", n: "vars.n + 1", dry: true }, [{ name: "day", type: "timestamp" }]),
  ).toBe(
    "chain: depot-load\ntitle: Depot load\nparams:\n  day: { type: timestamp }\n  n: { type: any }\n  dry: { type: bool }\nsteps: {}\n",
  ));

test("a chain under another name has another title, and calls itself by it", () =>
  expect(renamedSource("chain: a\ntitle: New chain\nsteps:\n  again: { kind: call }\n    chain: a\n", "b-c")).toBe(
    "chain: b-c\ntitle: B c\nsteps:\n  again: { kind: call }\n    chain: b-c\n",
  ));
