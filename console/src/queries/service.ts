import { queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  getHealth,
  listConnections,
  listKinds,
  listLanes,
  listNodes,
  listProfiles,
  listSecrets,
  recoverRun,
  removeSecret,
  setSecret,
} from "../core/api/client";
import { keys } from "./keys";

export const healthQuery = queryOptions({ queryKey: keys.health, queryFn: getHealth, refetchInterval: 15_000 });

export const lanesQuery = queryOptions({ queryKey: keys.lanes, queryFn: listLanes, refetchInterval: 1000 });

/** The nodes that share the service's database: looked at again every two seconds while somebody looks. */
export const nodesQuery = queryOptions({ queryKey: keys.nodes, queryFn: listNodes, refetchInterval: 2000 });

/** Kinds of steps are loaded at the service's start: they never change while it runs. */
export const kindsQuery = queryOptions({ queryKey: keys.kinds, queryFn: listKinds, staleTime: Infinity });

export const connectionsQuery = queryOptions({ queryKey: keys.connections, queryFn: listConnections });

export const secretsQuery = queryOptions({ queryKey: keys.secrets, queryFn: listSecrets });

export const profilesQuery = queryOptions({ queryKey: keys.profiles, queryFn: listProfiles });

/** What changes the service's own things. Each of them rejects with what the service refused. */
export function useServiceCommands() {
  const queries = useQueryClient();
  return {
    setSecret: async (name: string, value: string, area: string | null) => {
      await setSecret(name, value, area);
      await queries.invalidateQueries({ queryKey: keys.secrets });
    },
    removeSecret: async (name: string) => {
      await removeSecret(name);
      await queries.invalidateQueries({ queryKey: keys.secrets });
    },
    /** Refused or not, the state of the service is asked for again: somebody else may have been quicker. */
    recover: async (run: number) => {
      try {
        return await recoverRun(run);
      } finally {
        await queries.invalidateQueries({ queryKey: keys.health });
      }
    },
  };
}
