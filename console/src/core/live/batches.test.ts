import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Batches } from "./batches";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("the first comes at once, a burst comes together, the latest of each key only", () => {
  const taken: string[][] = [];
  const batches = new Batches<string>(500, (items) => taken.push(items));
  batches.add(1, "run 1 started");
  expect(taken).toEqual([["run 1 started"]]);
  batches.add(2, "run 2 started");
  batches.add(1, "run 1 failed");
  batches.add(2, "run 2 succeeded");
  vi.advanceTimersByTime(499);
  expect(taken).toHaveLength(1);
  vi.advanceTimersByTime(1);
  expect(taken[1]).toEqual(["run 2 succeeded", "run 1 failed"]);
  vi.advanceTimersByTime(5_000);
  expect(taken).toHaveLength(2);
  batches.add(3, "run 3 started");
  expect(taken).toHaveLength(3);
});

test("what waits when it is closed is not handed on", () => {
  const taken: string[][] = [];
  const batches = new Batches<string>(500, (items) => taken.push(items));
  batches.add(1, "a");
  batches.add(1, "b");
  batches.close();
  vi.advanceTimersByTime(5_000);
  expect(taken).toEqual([["a"]]);
});
