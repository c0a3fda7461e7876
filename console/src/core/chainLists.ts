import type { ChainSummary, ChainUseInfo } from "./api/types";

/** In which order chains stand in a list. */
export type ChainOrder = "name" | "latest";

/** How the latest run of a chain fares. */
export const lastState = ({ lastRuns: [last] }: ChainSummary): string => last?.state ?? "never ran";

/** Chains by the folder that they lie in; the workspace itself first. Starred ones come first in their folder. */
export function foldersOf(
  chains: readonly ChainSummary[],
  starred: readonly string[],
  order: ChainOrder,
): { folder: string; chains: ChainSummary[] }[] {
  const folders = new Map<string, ChainSummary[]>();
  for (const chain of chains) folders.set(chain.area, [...(folders.get(chain.area) ?? []), chain]);
  const begun = ({ lastRuns: [last] }: ChainSummary) => (last ? Date.parse(last.started) : 0);
  const title = (chain: ChainSummary) => chain.title ?? chain.name;
  return [...folders]
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([folder, inside]) => ({
      folder,
      chains: [...inside].sort(
        (a, b) =>
          Number(starred.includes(b.name)) - Number(starred.includes(a.name)) ||
          (order === "latest" ? begun(b) - begun(a) : 0) ||
          title(a).localeCompare(title(b)),
      ),
    }));
}

/** Where a chain is used, for people. */
export const nameOfUse = ({ chain, step, trigger }: Pick<ChainUseInfo, "chain" | "step" | "trigger">): string =>
  trigger === null ? `${chain ?? ""}, step ${step ?? ""}` : `trigger ${trigger}`;
