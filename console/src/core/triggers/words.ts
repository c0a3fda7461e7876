import type { FireInfo } from "../api/types";

/** A moment in a zone, with the day of the week; the zone's place is said. */
export function inZone(at: string, zone: string | null): string {
  const place = zone ?? "UTC";
  const parts = new Intl.DateTimeFormat("en-GB", {
    weekday: "short",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
    hourCycle: "h23",
    timeZone: place,
  }).formatToParts(new Date(at));
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? "";
  const seconds = part("second") === "00" ? "" : `:${part("second")}`;
  return `${part("weekday")} ${part("year")}-${part("month")}-${part("day")} ${part("hour")}:${part("minute")}${seconds}`;
}

/** The moment at which a day begins in a zone: a date such as 2026-11-29, and how many days later. */
export function dayBegins(date: string, zone: string | null, later = 0): string {
  const local = Date.parse(`${date}T00:00:00Z`) + later * 86_400_000;
  const shown = (at: number) => {
    const [day = "", time = ""] = inZone(new Date(at).toISOString(), zone).slice(4).split(" ");
    return Date.parse(`${day}T${time.length === 5 ? `${time}:00` : time}Z`);
  };
  // Twice, for the offset of the first guess may be that of the day before.
  let at = local;
  for (let i = 0; i < 2; i++) at += local - shown(at);
  return new Date(at).toISOString();
}

/** The place of a zone, as people say it. */
export const placeOf = (zone: string | null) =>
  zone === null ? "UTC" : zone.slice(zone.lastIndexOf("/") + 1).replaceAll("_", " ");

/** How far away a moment is. */
export function until(at: string, now: number): string {
  const left = Date.parse(at) - now;
  if (left <= 0) return "now";
  const minutes = Math.floor(left / 60_000);
  if (minutes < 1) return `in ${String(Math.ceil(left / 1000))} s`;
  if (minutes < 60) return `in ${String(minutes)} min`;
  const hours = Math.floor(minutes / 60);
  return hours < 48 ? `in ${String(hours)} h ${String(minutes % 60)} min` : `in ${String(Math.floor(hours / 24))} days`;
}

/** Whether a run that was wanted is not there. */
export const isMissing = (fire: { fate: string }) => fire.fate === "refused" || fire.fate === "late";

/** What became of a fire, in words. */
export const fateOf = (fire: FireInfo) =>
  fire.run !== null && fire.run !== undefined
    ? `run ${String(fire.run)}`
    : fire.fate === "passed-over"
      ? "passed over"
      : fire.fate;

/** What happened, as short as can be. */
export function happened(fire: FireInfo): string {
  const event = (fire.event ?? {}) as Record<string, unknown>;
  const text = (name: string) => (typeof event[name] === "string" ? event[name] : undefined);
  const due = text("due");
  if (due !== undefined) {
    const missed = Number(event.missed ?? 0);
    return `due ${due.replace("T", " ").replace("Z", " UTC")}${missed > 0 ? `, ${String(missed)} missed before` : ""}`;
  }
  if (text("path") !== undefined) return text("path") ?? "";
  if (Array.isArray(event.files)) {
    const files = event.files as { path: string }[];
    return files.length === 1 ? (files[0]?.path ?? "") : `${String(files.length)} files`;
  }
  if (event.run !== undefined)
    return `run ${String(event.run as number)} of ${text("chain") ?? ""}: ${text("outcome") ?? ""}`;
  if (event.probes !== undefined) return "what it looks at";
  return text("id") ? `call ${text("id") ?? ""}` : "a call";
}
