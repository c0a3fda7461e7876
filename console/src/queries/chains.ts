import { queryOptions, useQueryClient } from "@tanstack/react-query";
import {
  bringBackChain,
  changeKept,
  checkUses,
  discardDraft,
  getChain,
  getDraft,
  listChains,
  listDraftVersions,
  listKept,
  listReleases,
  listTemplates,
  listUses,
  pushWorkspace,
  retireChain,
} from "../core/api/client";
import { Refused } from "../core/api/call";
import { keys } from "./keys";

export const chainsQuery = queryOptions({ queryKey: keys.chains, queryFn: listChains });

export const chainQuery = (name: string) =>
  queryOptions({
    queryKey: keys.chain(name),
    queryFn: () => getChain(name),
    // That there is none is an answer; that nobody answered is none.
    retry: (times, error) => times < 2 && !(error instanceof Refused && error.status > 0 && error.status < 500),
  });

export const releasesQuery = (chain: string) =>
  queryOptions({ queryKey: keys.releases(chain), queryFn: () => listReleases(chain) });

export const usesQuery = (chain: string) =>
  queryOptions({ queryKey: keys.uses(chain), queryFn: () => listUses(chain) });

/** What a version that is not released yet would break where the chain is used. */
export const brokenUsesQuery = (chain: string, source: string) =>
  queryOptions({
    queryKey: keys.uses(chain, source),
    queryFn: async () => (await checkUses(chain, source)).filter((u) => u.breaks.length > 0),
    gcTime: 0,
    placeholderData: (before) => before,
  });

export const draftQuery = (chain: string) =>
  queryOptions({ queryKey: keys.draft(chain), queryFn: () => getDraft(chain) });

/** Saved versions of a draft; asked again when a newer version is there. */
export const draftVersionsQuery = (chain: string, version: number) =>
  queryOptions({ queryKey: keys.draftVersions(chain, version), queryFn: () => listDraftVersions(chain) });

export const keptValuesQuery = (chain: string) =>
  queryOptions({ queryKey: keys.keptValues(chain), queryFn: () => listKept(chain) });

/** Templates are part of the service: they never change while it runs. */
export const templatesQuery = queryOptions({
  queryKey: keys.templates,
  queryFn: listTemplates,
  staleTime: Infinity,
});

/** What changes chains, and refetches what it has changed. Each of them rejects with what the service refused. */
export function useChainCommands() {
  const queries = useQueryClient();
  const changed = (...which: (readonly string[])[]) =>
    Promise.all(which.map((queryKey) => queries.invalidateQueries({ queryKey })));
  return {
    /** Call after a chain was released. */
    released: (chain: string) => changed(keys.releases(chain), keys.chain(chain), keys.chains),
    retire: async (chain: string, why: string | null) => {
      await retireChain(chain, why);
      await changed(keys.chain(chain), keys.chains, keys.triggers);
    },
    bringBack: async (chain: string) => {
      await bringBackChain(chain);
      await changed(keys.chain(chain), keys.chains, keys.triggers);
    },
    discard: async (chain: string, version: number) => {
      await discardDraft(chain, version);
      await queries.invalidateQueries({ queryKey: keys.draft(chain) });
      await queries.invalidateQueries({ queryKey: keys.chains });
    },
    importWorkspace: async (files: Record<string, string>) => {
      const result = await pushWorkspace(files);
      await queries.invalidateQueries();
      return result;
    },
    setKept: async (chain: string, profile: string, set: Record<string, unknown>, reset: string[]) => {
      await changeKept(chain, profile, set, reset);
      await queries.invalidateQueries({ queryKey: keys.keptValues(chain) });
    },
  };
}
