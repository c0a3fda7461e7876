import { queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  getLineage,
  getRetention,
  getUsage,
  listData,
  pinRun,
  removeOldRuns,
  removeRetention,
  setRetention,
  unpinRun,
} from "../core/api/keeping";
import type { KeepRuleInfo } from "../core/api/types";
import { keys } from "./keys";

export const dataQuery = queryOptions({ queryKey: keys.data, queryFn: listData });

export const lineageQuery = (name: string) =>
  queryOptions({ queryKey: keys.lineage(name), queryFn: () => getLineage(name) });

export const retentionQuery = queryOptions({ queryKey: keys.retention, queryFn: getRetention });

export const usageQuery = queryOptions({ queryKey: keys.usage, queryFn: getUsage });

/** What changes how long runs are kept. Each rejects with what the service refused. */
export function useKeepingCommands() {
  const queries = useQueryClient();
  const then = async <T>(work: Promise<T>): Promise<T> => {
    const done = await work;
    await queries.invalidateQueries({ queryKey: keys.retention });
    return done;
  };
  return {
    setRule: (rule: KeepRuleInfo) => then(setRetention(rule)),
    removeRule: (rule: KeepRuleInfo) => then(removeRetention(rule.chain ?? undefined, rule.folder ?? undefined)),
    pin: (run: number, why: string) => then(pinRun(run, why.trim() === "" ? null : why.trim())),
    unpin: (run: number) => then(unpinRun(run)),
    removeNow: async () => {
      const gone = await then(removeOldRuns());
      await Promise.all(
        [keys.runs, keys.usage, keys.chains].map((queryKey) => queries.invalidateQueries({ queryKey })),
      );
      return gone;
    },
  };
}
