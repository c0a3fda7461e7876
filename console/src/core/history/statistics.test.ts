import { expect, test } from "vitest";
import { median, quantile, rolling } from "./statistics";

test("quantiles are numbers that were there", () => {
  expect([quantile([5, 1, 3], 0), median([5, 1, 3]), quantile([5, 1, 3], 1), median([])]).toEqual([1, 3, 5, undefined]);
  expect(rolling([1, null, 2, 3], 0.5, 3)).toEqual([null, null, null, null]);
  expect(rolling([4, 9, 2, 3, 8], 0.5, 3)).toEqual([null, null, 4, 3, 3]);
});
