import { expect, test } from "vitest";
import type { IterationStatus, RunDetail, StepStatus } from "../api/types";
import { iterationsToOffer, toleratedFailures } from "./iterations";

const iteration = (index: number, state = "succeeded") =>
  ({ path: `e[${String(index)}]`, step: "e", index, item: String(index), state }) as IterationStatus;
const all = Array.from({ length: 200 }, (_, i) =>
  iteration(i, i === 137 ? "failed" : i === 150 ? "running" : "succeeded"),
);

test("where there is no room for all, failures are offered, and the one in view", () => {
  const offered = iterationsToOffer(all, 180, 40).map((i) => i.index);
  expect(offered).toHaveLength(40);
  expect(offered).toEqual([...Array.from({ length: 37 }, (_, i) => i), 137, 150, 180]);
  expect(iterationsToOffer(all.slice(0, 40), 0, 40)).toHaveLength(40);
});

test("tolerated failures are those of loops that succeeded, and absorbed ones", () => {
  const step = (path: string, state: string, absorbed = false) =>
    ({ path, state, absorbed, message: absorbed ? "no such host" : null }) as StepStatus;
  const run = (state: string) =>
    ({ iterations: all, steps: [step("e", state), step("mail", "failed", true)] }) as unknown as RunDetail;
  expect(toleratedFailures(run("succeeded"))).toEqual([
    { path: "e[137]", what: "137" },
    { path: "mail", what: "no such host" },
  ]);
  expect(toleratedFailures(run("failed"))).toEqual([{ path: "mail", what: "no such host" }]);
});
