import { infiniteQueryOptions, queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  getProgress,
  getStep,
  listRuns,
  planResume,
  resumeRun,
  type ResumeOrder,
  type RunFilter,
} from "../core/api/client";
import type { RunListPage } from "../core/runs/runLists";
import { keys } from "./keys";

const pageSize = 50;

/** The runs that match, newest first, page by page; the live bridge keeps them fresh. */
export const runsQuery = (filter: RunFilter) =>
  infiniteQueryOptions({
    queryKey: [...keys.runs, filter],
    queryFn: async ({ pageParam }): Promise<RunListPage> => {
      const runs = await listRuns({ ...filter, before: pageParam, limit: pageSize });
      return { runs, next: runs.length === pageSize ? runs.at(-1)?.id : undefined };
    },
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next,
  });

/** How many runs of a chain are offered to choose from. */
export const recentRuns = 20;

/** The newest runs of a chain. */
export const recentRunsQuery = (chain: string) =>
  queryOptions({
    queryKey: [...keys.runs, "recent", chain],
    queryFn: () => listRuns({ chain, limit: recentRuns }),
  });

/**
 * A step of a run.
 * @param version changes whenever the step has changed: it is asked again then, not with every change of the run
 */
export const stepQuery = (run: number, path: string, leg: number | undefined, version: string) =>
  queryOptions({
    queryKey: keys.step(run, path, leg, version),
    queryFn: () => getStep(run, path, leg),
    placeholderData: (before) => (before?.status.path === path ? before : undefined),
  });

export const progressQuery = (run: number) =>
  queryOptions({ queryKey: keys.progress(run), queryFn: () => getProgress(run), refetchInterval: 500 });

/** What a resume would repeat, continue and keep. */
export const resumePlanQuery = (run: number, seq: number, order: ResumeOrder) =>
  queryOptions({
    queryKey: [...keys.resumePlans(run), seq, order],
    queryFn: ({ signal }) => planResume(run, order, signal),
    retry: false,
    placeholderData: (last) => last,
  });

/** Resumes a run. A plan that is still being asked for is cancelled: after the resume it would be refused. */
export function useResume(run: number) {
  const queries = useQueryClient();
  return async (order: ResumeOrder) => {
    await queries.cancelQueries({ queryKey: keys.resumePlans(run) });
    return resumeRun(run, order);
  };
}
