import { queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  getFile,
  listBroken,
  listConnectionTypes,
  listFiles,
  listFileVersions,
  saveFile,
  type FileOrder,
} from "../core/api/files";
import { keys } from "./keys";

/** What stands beside the chains; asked again now and then, for somebody else may save. */
export const filesQuery = queryOptions({ queryKey: keys.files, queryFn: listFiles, refetchInterval: 10_000 });

/** A file, read once when an editor opens: a refetch would overwrite what is being typed. */
export const fileQuery = (path: string) =>
  queryOptions({
    queryKey: keys.file(path),
    queryFn: () => getFile(path),
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });

/** An earlier version of a file never changes. */
export const fileVersionQuery = (path: string, version: string) =>
  queryOptions({ queryKey: keys.file(path, version), queryFn: () => getFile(path, version), staleTime: Infinity });

export const fileVersionsQuery = (path: string) =>
  queryOptions({ queryKey: keys.fileVersions(path), queryFn: () => listFileVersions(path), retry: false });

/** Types of connections are part of the service. */
export const connectionTypesQuery = queryOptions({
  queryKey: keys.connectionTypes,
  queryFn: listConnectionTypes,
  staleTime: Infinity,
});

export const brokenQuery = queryOptions({ queryKey: keys.broken, queryFn: listBroken, refetchInterval: 10_000 });

/** Saves files, and refetches what hangs on them. Rejects with what the service refused. */
export function useFileCommands() {
  const queries = useQueryClient();
  return {
    save: async (order: FileOrder) => {
      const answer = await saveFile(order);
      if (answer.version !== null) {
        const changed = [
          keys.files,
          keys.fileVersions(order.path),
          keys.connections,
          keys.profiles,
          keys.lanes,
          keys.triggers,
          keys.chains,
          keys.broken,
        ];
        await Promise.all(changed.map((queryKey) => queries.invalidateQueries({ queryKey })));
        // Who has saved it, and when: the rest of what is shown stays what is being typed.
        const saved = (await queries.fetchQuery(filesQuery)).find((f) => f.path === order.path);
        if (saved) queries.setQueryData(fileQuery(order.path).queryKey, (now) => (now ? { ...now, file: saved } : now));
      }
      return answer;
    },
  };
}
