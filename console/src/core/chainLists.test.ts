import { expect, test } from "vitest";
import type { ChainSummary } from "./api/types";
import { foldersOf, lastState } from "./chainLists";

const chain = (name: string, area: string, started?: string) =>
  ({
    name,
    area,
    title: null,
    lastRuns: started === undefined ? [] : [{ state: "failed", started }],
  }) as unknown as ChainSummary;
const all = [
  chain("tell", "", "2026-11-22T03:00:00Z"),
  chain("intake", "dairy", "2026-11-22T02:30:00Z"),
  chain("check", ""),
  chain("samples", "dairy", "2026-11-23T02:30:00Z"),
];
const names = (...of: Parameters<typeof foldersOf>) =>
  foldersOf(...of).map(({ folder, chains }) => `${folder}: ${chains.map((c) => c.name).join(" ")}`);

test("chains stand in their folders, by name or by their latest run, starred ones first", () => {
  expect(names(all, [], "name")).toEqual([": check tell", "dairy: intake samples"]);
  expect(names(all, ["samples"], "name")).toEqual([": check tell", "dairy: samples intake"]);
  expect(names(all, [], "latest")).toEqual([": tell check", "dairy: samples intake"]);
  expect(all.map(lastState)).toEqual(["failed", "failed", "never ran", "failed"]);
});
