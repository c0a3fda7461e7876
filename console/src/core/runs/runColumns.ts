import type { RunSummary } from "../api/types";

/** The columns that the list of runs can have, in their order; which run it is always stands there. */
export const runColumns = [
  { name: "chain", title: "Chain" },
  { name: "state", title: "State" },
  { name: "leg", title: "Leg" },
  { name: "started", title: "Started" },
  { name: "ended", title: "Ended" },
  { name: "took", title: "Took" },
  { name: "by", title: "Started by" },
  { name: "trigger", title: "Trigger" },
  { name: "parent", title: "Called by" },
  { name: "why", title: "Parameters, or why it failed" },
] as const;

export type RunColumn = (typeof runColumns)[number]["name"];

/** Those that stand there until somebody chooses. */
export const usualColumns: readonly string[] = ["chain", "state", "leg", "started", "took", "why"];

/** A parameter as a column of its own. */
export const parameterColumn = (name: string) => `param ${name}`;

/** The parameter that a column shows; null for the other columns. */
export const parameterOf = (column: string) => (column.startsWith("param ") ? column.slice(6) : null);

/** The parameters that any of some runs was given, by name. */
export function parametersOf(runs: readonly Pick<RunSummary, "params">[]): string[] {
  const names = new Set<string>();
  for (const { params } of runs)
    if (typeof params === "object" && params !== null && !Array.isArray(params))
      for (const name of Object.keys(params)) names.add(name);
  return [...names].sort();
}

/** The chosen columns in their order, parameters before the last one. */
export function inColumnOrder(chosen: readonly string[]): string[] {
  const own = runColumns.map((c) => c.name as string).filter((name) => chosen.includes(name));
  const parameters = chosen.filter((c) => parameterOf(c) !== null).sort();
  const last = own.at(-1) === "why" ? own.splice(-1) : [];
  return [...own, ...parameters, ...last];
}
