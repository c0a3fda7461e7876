import { expect, test } from "vitest";
import { inColumnOrder, parameterColumn, parameterOf, parametersOf, usualColumns } from "./runColumns";

test("columns keep their order however they were chosen; parameters come before what may be long", () => {
  expect(inColumnOrder(["why", "param zone", "state", "param day", "chain", "gone"])).toEqual([
    "chain",
    "state",
    "param day",
    "param zone",
    "why",
  ]);
  expect(inColumnOrder(usualColumns)).toEqual([...usualColumns]);
  expect(inColumnOrder(["took"])).toEqual(["took"]);
});

test("parameters are those that runs were given, each once", () => {
  expect(parametersOf([{ params: { day: 1, depots: [] } }, { params: { day: 2 } }, { params: null }])).toEqual([
    "day",
    "depots",
  ]);
  expect(parameterOf(parameterColumn("day"))).toBe("day");
  expect(parameterOf("state")).toBeNull();
});
