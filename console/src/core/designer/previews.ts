import { parse } from "yaml";
import type { FoundInfo } from "../api/types";

type Settings = Readonly<Record<string, unknown>>;

/** Settings that say what a file is; those about where it lies and which part of it is read stay as they are. */
const forms = ["csv", "fixed", "jsonl", "json", "xml", "parquet", "xlsx"] as const;
const about = ["at", "row", "delimiter", "widths", "text"] as const;

/** The path as somebody wrote it, with its pattern or expression, whatever form the file was taken for. */
export const pathOf = (from: Settings): unknown => forms.map((f) => from[f]).find((p) => p !== undefined);

/** Names that somebody gave to the columns of a file without a header, as far as they are those of this file. */
export function givenNames(found: FoundInfo, from: Settings): string[] | null {
  const { text } = parse(found.from) as { text?: { header?: boolean } };
  const names = (from.text as { names?: unknown } | undefined)?.names;
  return text?.header === false && Array.isArray(names) && names.length === found.header.length
    ? names.map(String)
    : null;
}

/** The columns of a file by the names that they have in the chain. */
export function headerOf(found: FoundInfo, from: Settings): FoundInfo["header"] {
  const names = givenNames(found, from);
  return names === null ? found.header : found.header.map((c, i) => ({ ...c, name: names[i] ?? c.name }));
}

/** Where rows come from, when a file is read as it was found to be. */
export function fromOf(found: FoundInfo, from: Settings): Record<string, unknown> {
  const news = parse(found.from) as Record<string, unknown>;
  const form = forms.find((f) => f in news);
  const own = new Set<string>([...forms, ...about]);
  const kept = Object.entries(from).filter(([key]) => !own.has(key));
  const names = givenNames(found, from);
  if (names !== null) news.text = { ...(news.text as object), names };
  return {
    ...(form === undefined ? {} : { [form]: pathOf(from) ?? news[form] }),
    ...Object.fromEntries(about.filter((a) => a in news).map((a) => [a, news[a]])),
    ...Object.fromEntries(kept),
  };
}

/**
 * The columns of a load, when those of a file are taken that were chosen. Those that are computed or that come from a
 * column of another name stay as somebody has written them, and so do rules beside a type.
 */
export function columnsOf(
  found: FoundInfo,
  from: Settings,
  columns: Settings,
  chosen: ReadonlySet<string>,
): Record<string, unknown> {
  const written = Object.entries(columns).filter(([, rule]) => isOwn(rule));
  const used = new Set(written.flatMap(([name, rule]) => [name, (rule as { from?: string }).from ?? name]));
  const rules = Object.values(parse(found.columns) as Record<string, object>);
  const names = headerOf(found, from).map((c) => c.name);
  return {
    ...Object.fromEntries(
      names
        .map((name, i) => [name, { ...(columns[name] as object | undefined), ...rules[i] }] as const)
        .filter(([name]) => chosen.has(name) && !used.has(name)),
    ),
    ...Object.fromEntries(written),
  };
}

const isOwn = (rule: unknown) => typeof rule === "object" && rule !== null && ("from" in rule || "value" in rule);

/** How many rows, and how many of them do not fit, in a sentence. */
export function countsOf({ seen, isAll, rejected }: { seen: number; isAll: boolean; rejected: number }): string {
  const rows = `${seen.toLocaleString("en")} ${seen === 1 ? "row" : "rows"}${isAll ? "" : " looked at, there are more"}`;
  return rejected === 0 ? rows : `${rows}; ${rejected.toLocaleString("en")} of them would be rejected`;
}
