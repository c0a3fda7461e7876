import { queryOptions } from "@tanstack/react-query";
import {
  compareSources,
  getChainSchema,
  getRelease,
  getWorkspaceContext,
  listColumns,
  listNames,
  lookAtExpression,
  lookUp,
  planRename,
  previewStep,
  rehearse,
  type Spot,
} from "../core/api/client";
import type { RehearsalOrder } from "../core/rehearsals/rehearsal";
import { keys } from "./keys";

/** What stands beside a chain in its folder: connections, profiles, lanes, other chains. */
export const workspaceContextQuery = (chain: string) =>
  queryOptions({ queryKey: keys.workspaceContext(chain), queryFn: () => getWorkspaceContext(chain) });

export const chainSchemaQuery = queryOptions({
  queryKey: keys.chainSchema,
  queryFn: getChainSchema,
  staleTime: Infinity,
});

/**
 * The values in scope at a place of a draft.
 * @param version changes when they may have changed
 */
export const namesQuery = (chain: string, source: () => string, spot: Spot, version: string) =>
  queryOptions({
    queryKey: keys.names(chain, spot, version),
    queryFn: () => listNames(chain, source(), spot),
    gcTime: 0,
  });

/** An expression computed with values that somebody made up. */
export const trialQuery = (
  chain: string,
  source: () => string,
  spot: Spot,
  text: string,
  values: Record<string, unknown>,
) =>
  queryOptions({
    queryKey: keys.trial(chain, spot, text, values),
    queryFn: () => lookAtExpression(chain, source(), spot, text, null, null, values),
    gcTime: 0,
    placeholderData: (before) => before,
  });

/** What a setting can name at a place. */
export const lookupQuery = (chain: string, what: "table" | "path", connection: string | null, begin: string | null) =>
  queryOptions({
    queryKey: keys.lookup(chain, what, connection, begin),
    queryFn: () => lookUp(chain, what, connection, begin),
    gcTime: 0,
    placeholderData: (before) => before,
  });

export const columnsQuery = (chain: string, source: () => string, step: string, pastRun: number | null) =>
  queryOptions({
    queryKey: keys.columns(chain, step, pastRun),
    queryFn: () => listColumns(chain, source(), step, pastRun),
    gcTime: 0,
    retry: false,
  });

/** What a step would read now: nothing of it is kept. */
export const previewQuery = (chain: string, source: () => string, step: string, pastRun: number | null) =>
  queryOptions({
    queryKey: keys.preview(chain, step, pastRun),
    queryFn: () => previewStep(chain, source(), step, pastRun),
    gcTime: 0,
    staleTime: 0,
    retry: false,
    refetchOnWindowFocus: false,
  });

export const renameQuery = (chain: string, source: string, what: string, scope: string, from: string, to: string) =>
  queryOptions({
    queryKey: keys.rename(chain, what, scope, from, to, source),
    queryFn: () => planRename(chain, source, what, scope, from, to),
    enabled: to !== from && to !== "",
    gcTime: 0,
    placeholderData: (before) => before,
  });

/** A text of a chain: as it stands in an editor or a saved version, or that of a release. */
export type ComparedText = { text: string } | { chain: string; release: number };

export const readText = async (of: ComparedText): Promise<string> =>
  "text" in of ? of.text : (await getRelease(of.chain, of.release)).source;

/** What two texts of a chain say differently; null for either asks for nothing. */
export const comparisonQuery = (before: ComparedText | null, after: ComparedText | null) =>
  queryOptions({
    queryKey: keys.comparison(before, after),
    queryFn: async () => (before && after ? compareSources(await readText(before), await readText(after)) : []),
    enabled: before !== null && after !== null,
    gcTime: 0,
    placeholderData: (last) => last,
  });

/** A rehearsal of a release, or of a draft's source. */
export const rehearsalQuery = (chain: string, release: string | null, source: string | null, order: RehearsalOrder) =>
  queryOptions({
    queryKey: keys.rehearsal(chain, release, source, order),
    queryFn: () => rehearse(chain, order, source),
    placeholderData: (before) => before,
    retry: false,
    gcTime: source === null ? undefined : 0,
  });
