import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { ChainSummary, RunSummary } from "../core/api/types";
import { aRun } from "../testing/runs";
import { keys } from "./keys";
import { bridgeLiveEvents } from "./liveBridge";

type Listener = (what: unknown) => void;
const stream = vi.hoisted((): { run: Listener; opened: () => void; draft: Listener } => ({
  run: () => undefined,
  opened: () => undefined,
  draft: () => undefined,
}));
vi.mock("../core/live/streams", () => ({
  followRuns: (run: Listener, opened: () => void) => {
    Object.assign(stream, { run, opened });
    return () => undefined;
  },
  onDraft: (draft: Listener) => {
    Object.assign(stream, { draft });
    return () => undefined;
  },
}));

const run = (id: number, state = "running", trigger: string | null = null) => aRun(id, { state, trigger });
const chain = (name: string, lastRuns: RunSummary[]) => ({ name, lastRuns }) as ChainSummary;

let queries: QueryClient;
let end: () => void;
beforeEach(() => {
  vi.useFakeTimers();
  queries = new QueryClient({ defaultOptions: { queries: { retry: false, gcTime: Infinity } } });
  end = bridgeLiveEvents(queries);
});
afterEach(() => {
  end();
  vi.useRealTimers();
});

const invalidated = (queryKey: readonly unknown[]) => queries.getQueryState(queryKey)?.isInvalidated;

test("lists are patched, not fetched again, and no more than twice a second", () => {
  const list = [...keys.runs, { chain: "milk-intake" }];
  queries.setQueryData(list, { pages: [{ runs: [run(1)], next: undefined }], pageParams: [undefined] });
  queries.setQueryData([...keys.runs, "recent", "milk-intake"], [run(1)]);
  queries.setQueryData(keys.chains, [chain("milk-intake", [run(1)]), chain("price-order", [])]);
  const untouched = queries.getQueryData<ChainSummary[]>(keys.chains)?.[1];
  stream.run(run(2));
  stream.run(run(2, "failed"));
  stream.run(run(1, "succeeded"));
  const states = () =>
    queries
      .getQueryData<{ pages: { runs: RunSummary[] }[] }>(list)
      ?.pages[0]?.runs.map((r) => `${String(r.id)} ${r.state}`);
  expect(states()).toEqual(["2 running", "1 running"]);
  vi.advanceTimersByTime(500);
  expect(states()).toEqual(["2 failed", "1 succeeded"]);
  expect(queries.getQueryData<RunSummary[]>([...keys.runs, "recent", "milk-intake"])?.map((r) => r.state)).toEqual([
    "failed",
    "succeeded",
  ]);
  const chains = queries.getQueryData<ChainSummary[]>(keys.chains);
  expect(chains?.[0]?.lastRuns.map((r) => r.id)).toEqual([2, 1]);
  expect(chains?.[1]).toBe(untouched);
  expect(invalidated(list)).toBe(false);
});

test("what only the service can say is fetched again", async () => {
  const searched = [...keys.runs, { text: "north" }];
  queries.setQueryData(searched, { pages: [{ runs: [run(1)], next: undefined }], pageParams: [undefined] });
  queries.setQueryData(keys.triggers, []);
  stream.run(run(2, "running", "nightly"));
  await vi.advanceTimersByTimeAsync(0);
  expect(invalidated(searched)).toBe(true);
  expect(invalidated(keys.triggers)).toBe(true);
});

test("what was on its way when a run changed is patched once it is there", async () => {
  const observer = new QueryObserver(queries, {
    queryKey: keys.chains,
    queryFn: () => new Promise<ChainSummary[]>((done) => setTimeout(() => done([chain("milk-intake", [run(1)])]), 700)),
  });
  const leave = observer.subscribe(() => undefined);
  stream.run(run(1, "failed"));
  await vi.advanceTimersByTimeAsync(1_000);
  expect(queries.getQueryData<ChainSummary[]>(keys.chains)?.[0]?.lastRuns[0]?.state).toBe("failed");
  leave();
});

test("an opened stream, a burst and a saved draft fetch again what they may have changed", async () => {
  queries.setQueryData(keys.chains, []);
  queries.setQueryData(keys.draft("milk-intake"), {});
  queries.setQueryData(keys.releases("milk-intake"), []);
  stream.opened();
  await vi.advanceTimersByTimeAsync(0);
  expect(invalidated(keys.chains)).toBe(true);
  queries.setQueryData(keys.chains, []);
  for (let id = 1; id <= 400; id++) stream.run(run(id));
  await vi.advanceTimersByTimeAsync(3_000);
  expect(invalidated(keys.chains)).toBe(true);
  stream.draft({ chain: "milk-intake", version: 2, by: "noor" });
  await vi.advanceTimersByTimeAsync(0);
  expect(invalidated(keys.draft("milk-intake"))).toBe(true);
  expect(invalidated(keys.releases("milk-intake"))).toBe(true);
});
