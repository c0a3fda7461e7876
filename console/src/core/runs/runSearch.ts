/** The filters of the list of runs, as they stand in the address; undefined for any. Days are local: 2026-11-29. */
export interface RunSearch {
  chain?: string;
  state?: string;
  trigger?: string;
  from?: string;
  to?: string;
  text?: string;
}

const names = ["chain", "state", "trigger", "from", "to", "text"] as const;

/** Reads the filters; what is no text is left out. */
export const readRunSearch = (search: Record<string, unknown>): RunSearch =>
  Object.fromEntries(
    names.flatMap((name) => (typeof search[name] === "string" ? [[name, search[name]]] : [])),
  ) as RunSearch;
