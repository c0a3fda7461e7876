import { queryOptions } from "@tanstack/react-query";
import { getDifference, getExpected, getHistory, getHome } from "../core/api/client";
import { keys } from "./keys";

/** Runs that are at work move on without news of their own. */
const refresh = 5_000;

export const homeQuery = queryOptions({ queryKey: keys.home, queryFn: getHome, refetchInterval: refresh });

/** The latest legs of a chain. */
export const historyQuery = (chain: string, most: number, tries: boolean) =>
  queryOptions({
    queryKey: keys.history(chain, most, tries),
    queryFn: () => getHistory(chain, most, tries),
    placeholderData: (before) => before,
  });

/** What a run had differently. */
export const differenceQuery = (run: number, other: number | undefined) =>
  queryOptions({
    queryKey: keys.difference(run, other),
    queryFn: () => getDifference(run, other),
    retry: false,
  });

/** When a run that has not ended will. */
export const expectedQuery = (run: number) =>
  queryOptions({ queryKey: keys.expected(run), queryFn: () => getExpected(run), refetchInterval: refresh });
