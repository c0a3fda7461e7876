import type { Entry } from "../document/entries";

/** The five kinds of triggers, with what people are asked. */
export const kinds = [
  { kind: "schedule", label: "At a time" },
  { kind: "arrival", label: "When a file comes" },
  { kind: "hook", label: "When another system calls" },
  { kind: "watch", label: "When something is seen" },
  { kind: "outcome", label: "When a run has ended" },
] as const;

export type TriggerKind = (typeof kinds)[number]["kind"];

/** A trigger as its file says it: whatever the form does not know stays as it is. */
export type TriggerEntry = Entry & { chain?: string };

/** Words of a schedule that need no cron. */
export const often = [
  { value: "day", label: "every day" },
  { value: "weekday", label: "every weekday, Monday to Friday" },
  { value: "week", label: "on some days of the week" },
  { value: "month", label: "every month" },
  { value: "step", label: "every so many minutes or hours" },
  { value: "cron", label: "as cron says" },
  { value: "rrule", label: "as a calendar rule says" },
] as const;

export type Often = (typeof often)[number]["value"];

export const weekdays = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] as const;

export const outcomes = [
  "succeeded",
  "failed",
  "stopped",
  "late",
  "endangered",
  "paused",
  "warned",
  "refused",
] as const;

/** The kind that an entry has; null when it has none, or several. */
export function kindOf(entry: TriggerEntry): TriggerKind | null {
  const found = kinds.map((k) => k.kind).filter((k) => entry[k] !== undefined);
  return found.length === 1 ? (found[0] ?? null) : null;
}

/** The settings of its kind. */
export const settingsOf = (entry: TriggerEntry): Record<string, unknown> => {
  const kind = kindOf(entry);
  const settings = kind === null ? undefined : entry[kind];
  return typeof settings === "object" && settings !== null ? (settings as Record<string, unknown>) : {};
};

/** How often a schedule is, in the words of the form. */
export function oftenOf(schedule: Record<string, unknown>): Often {
  if (schedule.cron !== undefined) return "cron";
  if (schedule.rrule !== undefined) return "rrule";
  const every = schedule.every;
  if (Array.isArray(every)) return "week";
  if (every === "day" || every === "weekday" || every === "month") return every;
  return typeof every === "string" && (weekdays as readonly string[]).includes(every) ? "week" : "step";
}

/** A schedule that is said otherwise: what the new words do not have goes, the rest stays. */
export function reword(schedule: Record<string, unknown>, next: Often): Record<string, unknown> {
  const rest = Object.fromEntries(
    Object.entries(schedule).filter(([key]) => !["every", "at", "on", "cron", "rrule"].includes(key)),
  );
  const at = schedule.at ?? "06:00";
  switch (next) {
    case "day":
    case "weekday":
      return { every: next, at, ...rest };
    case "week":
      return { every: ["mon"], at, ...rest };
    case "month":
      return { every: "month", on: "1", at, ...rest };
    case "step":
      return { every: "15m", ...rest };
    case "cron":
      return { cron: "0 6 * * 1-5", ...rest };
    case "rrule":
      return { rrule: "FREQ=MONTHLY;BYDAY=-1FR", at, ...rest };
  }
}

/** A new trigger of a kind, with what most of them have. */
export function blank(kind: TriggerKind, chain: string): TriggerEntry {
  const settings = {
    schedule: { every: "day", at: "06:00", zone: Intl.DateTimeFormat().resolvedOptions().timeZone },
    arrival: { path: "inbox/*.csv", quiet: "2s" },
    hook: { path: chain || "call", sign: "secret:hook" },
    watch: { probes: { seen: { kind: "file", path: "inbox/*" } }, when: "probes.seen.count > 0", every: "1m" },
    outcome: { chains: ["*", ...(chain ? [`!${chain}`] : [])], is: ["failed"] },
  }[kind];
  return { chain, [kind]: settings };
}
