import { expect, test } from "vitest";
import { namesRead } from "./templates";

test("the names that an expression reads are found, those in texts are not", () =>
  expect([...namesRead('vars.n > 3 && has(steps.load.rows) && item == "params.day"')].sort()).toEqual([
    "has",
    "item",
    "steps",
    "steps.load",
    "steps.load.rows",
    "vars",
    "vars.n",
  ]));
