import type { InfiniteData, QueryClient } from "@tanstack/react-query";
import type { RunFilter } from "../core/api/client";
import type { ChainSummary, RunSummary } from "../core/api/types";
import { Batches } from "../core/live/batches";
import { followRuns, onDraft } from "../core/live/streams";
import { patchRunPages, placeRun, type RunListPage } from "../core/runs/runLists";
import { keys } from "./keys";
import { recentRuns } from "./runs";

/** How often lists change at most, in milliseconds: more often nobody can read them. */
const patchEvery = 500;

/** How often triggers and chains are asked for again at most, in milliseconds. */
const refetchEvery = 3_000;

/** From how many runs in one batch on the lists are fetched again: the service tells a burst with gaps. */
const burst = 300;

const latestRuns = 10;

/** Keeps cached lists as the service tells that runs and drafts have changed. Returns what ends it. */
export function bridgeLiveEvents(queries: QueryClient): () => void {
  const refetches = new Map<readonly string[], Batches<readonly string[]>>();
  const again = (queryKey: readonly string[]) => {
    const refetch =
      refetches.get(queryKey) ??
      new Batches<readonly string[]>(refetchEvery, () => void queries.invalidateQueries({ queryKey }));
    refetches.set(queryKey, refetch);
    refetch.add(queryKey, queryKey);
  };
  const runs = new Batches<RunSummary>(patchEvery, (changed) => {
    if (changed.length >= burst) {
      again(keys.runs);
      again(keys.chains);
    } else {
      patchRuns(queries, changed, () => again(keys.runs));
      patchChains(queries, changed);
    }
    // What is on its way may have been read before the change: it is patched once it is there.
    if (isFetching(queries, keys.runs) || isFetching(queries, keys.chains))
      for (const run of changed) runs.add(run.id, run);
    if (changed.some((run) => run.trigger !== null)) again(keys.triggers);
    again(keys.home);
  });
  const endRuns = followRuns(
    (run) => runs.add(run.id, run),
    // What happened before the stream was open was not sent.
    () => [keys.runs, keys.chains, keys.triggers].forEach(again),
  );
  const endDrafts = onDraft((draft) => {
    again(keys.chains);
    void queries.invalidateQueries({ queryKey: keys.draft(draft.chain) });
    // A draft that is released is gone: that is how others hear of it.
    void queries.invalidateQueries({ queryKey: keys.releases(draft.chain) });
  });
  return () => {
    endRuns();
    endDrafts();
    runs.close();
    refetches.forEach((refetch) => refetch.close());
  };
}

const isFetching = (queries: QueryClient, queryKey: readonly string[]) => queries.isFetching({ queryKey }) > 0;

function patchRuns(queries: QueryClient, changed: RunSummary[], refetch: () => void) {
  for (const { queryKey } of queries.getQueryCache().findAll({ queryKey: keys.runs })) {
    const [, of, chain] = queryKey;
    if (of === "recent") {
      queries.setQueryData<RunSummary[]>(
        queryKey,
        (list) =>
          list &&
          changed
            .filter((run) => run.chain === chain)
            .reduce((all, run) => placeRun(all, run), list)
            .slice(0, recentRuns),
      );
      continue;
    }
    const list = queries.getQueryData<InfiniteData<RunListPage>>(queryKey);
    if (!list) continue;
    const pages = patchRunPages(list.pages, changed, of as RunFilter);
    if (pages) queries.setQueryData(queryKey, { ...list, pages });
    else refetch();
  }
}

function patchChains(queries: QueryClient, changed: RunSummary[]) {
  queries.setQueryData<ChainSummary[]>(keys.chains, (chains) =>
    chains?.map((chain) => {
      const own = changed.filter((run) => run.chain === chain.name);
      if (own.length === 0) return chain;
      return {
        ...chain,
        lastRuns: own.reduce((all, run) => placeRun(all, run), chain.lastRuns).slice(0, latestRuns),
      };
    }),
  );
}
