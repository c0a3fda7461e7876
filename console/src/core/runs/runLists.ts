import type { RunFilter } from "../api/client";
import type { RunSummary } from "../api/types";

/** Some runs of a list, newest first, and where the next page begins; undefined for the last page. */
export interface RunListPage {
  runs: RunSummary[];
  next: number | undefined;
}

type Filter = Omit<RunFilter, "before" | "limit">;

/** Whether a run belongs to a list; null when only the service can say. */
export function belongs(run: RunSummary, filter: Filter): boolean | null {
  const fits =
    (filter.chain === undefined || run.chain === filter.chain) &&
    (filter.state === undefined || run.state === filter.state) &&
    (filter.trigger === undefined || run.trigger === filter.trigger) &&
    (filter.from === undefined || Date.parse(run.started) >= Date.parse(filter.from)) &&
    (filter.to === undefined || Date.parse(run.started) < Date.parse(filter.to));
  return fits && filter.text !== undefined ? null : fits;
}

/** Puts a run into a list in place of what stood there of it, or where its number belongs; with false takes it out. */
export function placeRun(runs: readonly RunSummary[], run: RunSummary, stays = true): RunSummary[] {
  const others = runs.filter((r) => r.id !== run.id);
  if (!stays) return others;
  const at = others.findIndex((r) => r.id < run.id);
  return at < 0 ? [...others, run] : [...others.slice(0, at), run, ...others.slice(at)];
}

/**
 * A list after runs have changed; pages that nothing happened to stay the same objects. Null when the service has to be
 * asked, since a text is searched for that a new run may or may not have.
 */
export function patchRunPages(
  pages: readonly RunListPage[],
  changed: readonly RunSummary[],
  filter: Filter,
): RunListPage[] | null {
  const next = [...pages];
  for (const run of changed) {
    const known = next.findIndex((page) => page.runs.some((r) => r.id === run.id));
    const fits = belongs(run, filter);
    if (known < 0 && fits === false) continue;
    if (known < 0 && fits === null) return null;
    // A page ends where the next one begins; what is older than all that is loaded comes with its own page.
    const at = known >= 0 ? known : next.findIndex((page) => page.next === undefined || run.id >= page.next);
    const page = next[at];
    if (page) next[at] = { ...page, runs: placeRun(page.runs, run, fits !== false) };
  }
  return next;
}
