import { describe, expect, test } from "vitest";
import { aRun } from "../../testing/runs";
import type { RunSummary } from "../api/types";
import { belongs, patchRunPages, placeRun, type RunListPage } from "./runLists";

test.each([
  [{}, true],
  [{ chain: "milk-intake", state: "running" }, true],
  [{ chain: "price-order" }, false],
  [{ state: "failed" }, false],
  [{ trigger: "nightly" }, false],
  [{ from: "2026-11-22T02:30:00Z", to: "2026-11-22T02:30:01Z" }, true],
  [{ from: "2026-11-22T02:30:00.001Z" }, false],
  [{ to: "2026-11-22T02:30:00Z" }, false],
  [{ text: "north" }, null],
  [{ text: "north", state: "failed" }, false],
])("a run belongs to the list of %j: %s", (filter, expected) => {
  expect(belongs(aRun(1), filter)).toBe(expected);
});

test("a run stands where its number belongs", () => {
  const ids = (runs: RunSummary[]) => runs.map((r) => r.id);
  expect(ids(placeRun([aRun(5), aRun(3)], aRun(7)))).toEqual([7, 5, 3]);
  expect(ids(placeRun([aRun(5), aRun(3)], aRun(4)))).toEqual([5, 4, 3]);
  expect(ids(placeRun([aRun(5), aRun(3)], aRun(1)))).toEqual([5, 3, 1]);
  expect(placeRun([aRun(5), aRun(3)], aRun(3, { state: "failed" }))[1]?.state).toBe("failed");
  expect(ids(placeRun([aRun(5), aRun(3)], aRun(5), false))).toEqual([3]);
});

describe("pages of runs", () => {
  const pages: RunListPage[] = [
    { runs: [aRun(9), aRun(8)], next: 8 },
    { runs: [aRun(5), aRun(4)], next: 4 },
  ];
  const ids = (all: RunListPage[] | null) => all?.map((page) => page.runs.map((r) => r.id));

  test("new runs come first; pages that nothing happened to stay the same objects", () => {
    const after = patchRunPages(pages, [aRun(10), aRun(11)], {});
    expect(ids(after)).toEqual([
      [11, 10, 9, 8],
      [5, 4],
    ]);
    expect(after?.[1]).toBe(pages[1]);
  });
  test("a run that has come into the filter stands on its page, older ones come with theirs", () => {
    expect(ids(patchRunPages(pages, [aRun(6), aRun(2)], {}))).toEqual([
      [9, 8],
      [6, 5, 4],
    ]);
    expect(ids(patchRunPages([{ runs: [], next: undefined }], [aRun(2)], {}))).toEqual([[2]]);
  });
  test("a run that fits no more goes", () => {
    expect(ids(patchRunPages(pages, [aRun(8, { state: "failed" })], { state: "running" }))).toEqual([[9], [5, 4]]);
    expect(ids(patchRunPages(pages, [aRun(12, { chain: "price-order" })], { chain: "milk-intake" }))).toEqual(
      ids(pages),
    );
  });
  test("a searched text is the service's to find in a new run, not in one that is there", () => {
    expect(patchRunPages(pages, [aRun(12)], { text: "north" })).toBeNull();
    const after = patchRunPages(pages, [aRun(8, { state: "failed" })], { text: "north" });
    expect(after?.[0]?.runs[1]?.state).toBe("failed");
  });
});
