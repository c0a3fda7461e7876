import { infiniteQueryOptions, queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  getProgress,
  getRun,
  getStep,
  getTrail,
  listIterations,
  listMoments,
  listRuns,
  planResume,
  resumeRun,
  type ResumeOrder,
  type RunFilter,
} from "../core/api/client";
import type { MomentInfo } from "../core/api/types";
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

const iterationsAtOnce = 200;

/** Iterations of a container that match, page by page. */
export const iterationsQuery = (run: number, path: string, text: string, state: string, version: string) =>
  infiniteQueryOptions({
    queryKey: keys.iterations(run, path, text, state, version),
    queryFn: ({ pageParam }) =>
      listIterations(run, path, {
        text: text === "" ? undefined : text,
        state: state === "" ? undefined : state,
        from: pageParam,
        limit: iterationsAtOnce,
      }),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const read = all.reduce((n, p) => n + p.iterations.length, 0);
      return read < Number(last.found) ? read : undefined;
    },
    gcTime: 0,
    placeholderData: (before) => before,
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
export const stepQuery = (
  run: number,
  path: string,
  leg: number | undefined,
  moment: number | undefined,
  version: string,
) =>
  queryOptions({
    queryKey: keys.step(run, path, leg, moment, version),
    queryFn: () => getStep(run, path, leg, moment),
    placeholderData: (before) => (before?.status.path === path ? before : undefined),
  });

/** A run as it was behind a decision; the one before stays until it is there. */
export const momentQuery = (run: number, moment: number | undefined) =>
  queryOptions({
    queryKey: keys.moment(run, moment ?? 0),
    queryFn: () => getRun(run, undefined, moment),
    enabled: moment !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (before) => (before?.id === run ? before : undefined),
  });

/** How many decisions are listed at most; later ones are shown without their words. */
const mostMoments = 20_000;

/** The decisions of a run up to one. */
export const momentsQuery = (run: number, last: number) =>
  queryOptions({
    queryKey: [...keys.moments(run), "all", last],
    queryFn: async () => {
      const found: MomentInfo[] = [];
      for (;;) {
        const page = await listMoments(run, found.at(-1)?.seq ?? 0);
        found.push(...page);
        if (page.length === 0 || (found.at(-1)?.seq ?? 0) >= last || found.length >= mostMoments) return found;
      }
    },
    staleTime: Infinity,
    placeholderData: (before) => before,
  });

/** The calls that lead to a run; they never change. */
export const trailQuery = (run: number) =>
  queryOptions({ queryKey: keys.trail(run), queryFn: () => getTrail(run), staleTime: Infinity });

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
