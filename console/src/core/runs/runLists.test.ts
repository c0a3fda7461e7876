import { describe, expect, test } from "vitest";
import type { RunSummary } from "../api/types";
import { belongs, patchRunPages, placeRun, type RunListPage } from "./runLists";

const run = (id: number, more: Partial<RunSummary> = {}): RunSummary => ({
  id,
  chain: "milk-intake",
  state: "running",
  leg: 1,
  by: "noor",
  started: "2026-11-22T02:30:00Z",
  ended: null,
  params: {},
  error: null,
  late: false,
  resumeAt: null,
  parent: null,
  actor: { kind: "person", id: "noor", name: "noor" },
  origin: null,
  trigger: null,
  ...more,
});

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
  expect(belongs(run(1), filter)).toBe(expected);
});

test("a run stands where its number belongs", () => {
  const ids = (runs: RunSummary[]) => runs.map((r) => r.id);
  expect(ids(placeRun([run(5), run(3)], run(7)))).toEqual([7, 5, 3]);
  expect(ids(placeRun([run(5), run(3)], run(4)))).toEqual([5, 4, 3]);
  expect(ids(placeRun([run(5), run(3)], run(1)))).toEqual([5, 3, 1]);
  expect(placeRun([run(5), run(3)], run(3, { state: "failed" }))[1]?.state).toBe("failed");
  expect(ids(placeRun([run(5), run(3)], run(5), false))).toEqual([3]);
});

describe("pages of runs", () => {
  const pages: RunListPage[] = [
    { runs: [run(9), run(8)], next: 8 },
    { runs: [run(5), run(4)], next: 4 },
  ];
  const ids = (all: RunListPage[] | null) => all?.map((page) => page.runs.map((r) => r.id));

  test("new runs come first; pages that nothing happened to stay the same objects", () => {
    const after = patchRunPages(pages, [run(10), run(11)], {});
    expect(ids(after)).toEqual([
      [11, 10, 9, 8],
      [5, 4],
    ]);
    expect(after?.[1]).toBe(pages[1]);
  });
  test("a run that has come into the filter stands on its page, older ones come with theirs", () => {
    expect(ids(patchRunPages(pages, [run(6), run(2)], {}))).toEqual([
      [9, 8],
      [6, 5, 4],
    ]);
    expect(ids(patchRunPages([{ runs: [], next: undefined }], [run(2)], {}))).toEqual([[2]]);
  });
  test("a run that fits no more goes", () => {
    expect(ids(patchRunPages(pages, [run(8, { state: "failed" })], { state: "running" }))).toEqual([[9], [5, 4]]);
    expect(ids(patchRunPages(pages, [run(12, { chain: "price-order" })], { chain: "milk-intake" }))).toEqual(
      ids(pages),
    );
  });
  test("a searched text is the service's to find in a new run, not in one that is there", () => {
    expect(patchRunPages(pages, [run(12)], { text: "north" })).toBeNull();
    const after = patchRunPages(pages, [run(8, { state: "failed" })], { text: "north" });
    expect(after?.[0]?.runs[1]?.state).toBe("failed");
  });
});
