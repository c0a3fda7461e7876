import { queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  backfill,
  changeBackfill,
  fireTrigger,
  listBackfills,
  listFires,
  listHolds,
  listTriggerFiles,
  listTriggers,
  nextTimes,
  saveTriggers,
  setHold,
  switchTrigger,
  weekOfStarts,
  type BackfillOrder,
} from "../core/api/client";
import type { TriggerInfo } from "../core/api/types";
import { keys } from "./keys";

/** All triggers. Troubles of folders and hosts come without an event: it is asked again every 15 s. */
export const triggersQuery = queryOptions({
  queryKey: keys.triggers,
  queryFn: () => listTriggers(),
  refetchInterval: 15_000,
});

export const triggersOfQuery = (chain: string) =>
  queryOptions({ queryKey: [...keys.triggers, "of", chain], queryFn: () => listTriggers(chain) });

/** The next due times of a schedule; asked again when its next one has passed. */
export const nextTimesQuery = (trigger: TriggerInfo) =>
  queryOptions({
    queryKey: [...keys.triggers, trigger.name, "next", trigger.next?.at],
    queryFn: () => nextTimes(trigger.name, 5),
    enabled: trigger.kind === "schedule",
  });

/** The latest fires of a trigger; asked again when there is a newer one. */
export const firesQuery = (trigger: TriggerInfo) =>
  queryOptions({
    queryKey: [...keys.triggers, trigger.name, "fires", trigger.fires[0]?.number, trigger.fires[0]?.outcome],
    queryFn: () => listFires({ trigger: trigger.name, limit: 30 }),
    placeholderData: (before) => before,
  });

export const weekQuery = (from: string) =>
  queryOptions({
    queryKey: [...keys.triggers, "week", from],
    queryFn: () => weekOfStarts(from),
    placeholderData: (before) => before,
  });

/** The files of triggers, read once when an editor opens: a refetch would overwrite what is being typed. */
export const triggerFilesQuery = queryOptions({
  queryKey: keys.triggerFiles,
  queryFn: listTriggerFiles,
  staleTime: Infinity,
  gcTime: 0,
  refetchOnWindowFocus: false,
  refetchOnReconnect: false,
});

export const holdsQuery = queryOptions({ queryKey: keys.holds, queryFn: listHolds });

export const backfillsQuery = queryOptions({
  queryKey: keys.backfills,
  queryFn: listBackfills,
  refetchInterval: (query) => (query.state.data?.some((b) => b.state === "running") ? 1000 : false),
});

export const backfillPreviewQuery = (trigger: string, order: BackfillOrder) =>
  queryOptions({
    queryKey: [...keys.triggers, trigger, "backfill", order],
    queryFn: () => backfill(trigger, order, true),
    retry: false,
    placeholderData: (before) => before,
  });

/**
 * What changes triggers, and refetches what it has changed. Each of them rejects with what the service refused; the
 * lists are refetched then too, since somebody else may have been quicker.
 */
export function useTriggerCommands() {
  const queries = useQueryClient();
  const then = async <T>(work: Promise<T>, ...changed: readonly (readonly string[])[]) => {
    try {
      return await work;
    } finally {
      await Promise.all(changed.map((queryKey) => queries.invalidateQueries({ queryKey })));
    }
  };
  return {
    turn: (name: string, on: boolean) => then(switchTrigger(name, on, false), keys.triggers),
    fire: (name: string, event: unknown, again: number | null) => then(fireTrigger(name, event, again), keys.triggers),
    save: (path: string, content: string, version: number | null) =>
      then(saveTriggers(path, content, version), keys.triggers),
    hold: (on: boolean, why: string | null) => then(setHold(on, why), keys.holds, keys.triggers),
    backfill: (name: string, order: BackfillOrder) => then(backfill(name, order, false), keys.backfills, keys.triggers),
    changeBackfill: (number: number, action: "pause" | "resume" | "stop") =>
      then(changeBackfill(number, action), keys.backfills),
  };
}
