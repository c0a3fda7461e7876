const two = (n: number) => String(n).padStart(2, "0");

/** What a run follows, by the number of its release. */
export const releaseName = (number: number | null | undefined) =>
  number == null ? "a draft" : `release ${String(number)}`;

/** A length of time in words a glance takes in; milliseconds. */
export function took(ms: number): string {
  if (ms < 1000) return `${String(Math.max(0, Math.round(ms)))} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(1)} s`;
  const minutes = Math.floor(ms / 60_000);
  if (minutes < 60) return `${String(minutes)} min ${two(Math.floor(ms / 1000) % 60)} s`;
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return `${String(hours)} h ${two(minutes % 60)} min`;
  return `${String(Math.floor(hours / 24))} d ${String(hours % 24)} h`;
}

export function between(from: string | null | undefined, to: string | null | undefined, now: number): string {
  return from == null ? "" : took((to == null ? now : Date.parse(to)) - Date.parse(from));
}

/** Local time, to the second; with the date unless it is today. */
export function clock(time: string | null | undefined, now = Date.now()): string {
  if (time == null) return "";
  const date = new Date(time);
  const text = `${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`;
  return date.toDateString() === new Date(now).toDateString()
    ? text
    : `${String(date.getFullYear())}-${two(date.getMonth() + 1)}-${two(date.getDate())} ${text}`;
}

const days = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Day and time where the browser is, with how far that is from UTC: `Sun 22 Nov 2026 02:30:00 UTC`. */
export function dayAndClock(time: string | null | undefined): string {
  if (time == null) return "";
  const date = new Date(time);
  const ahead = -date.getTimezoneOffset();
  const zone =
    ahead === 0
      ? "UTC"
      : `UTC${ahead < 0 ? "−" : "+"}${String(Math.floor(Math.abs(ahead) / 60))}${ahead % 60 === 0 ? "" : `:${two(Math.abs(ahead) % 60)}`}`;
  const day = `${days[date.getDay()] ?? ""} ${String(date.getDate())} ${months[date.getMonth()] ?? ""} ${String(date.getFullYear())}`;
  return `${day} ${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())} ${zone}`;
}

/** A time of today to the minute; of another day with that: `Mon 02:31`. */
export function dayOrTime(time: string, now = Date.now()): string {
  const date = new Date(time);
  const text = `${two(date.getHours())}:${two(date.getMinutes())}`;
  return date.toDateString() === new Date(now).toDateString() ? text : `${days[date.getDay()] ?? ""} ${text}`;
}

/** A parameter's value as one would type it: lists with commas, midnight as a date. */
export function typed(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value) && value.every((v) => typeof v === "string")) return value.join(", ");
  if (typeof value === "string") return value.endsWith("T00:00:00Z") ? value.slice(0, 10) : value;
  return JSON.stringify(value);
}

/** Parameters on one line. */
export const parametersLine = (params: unknown) =>
  Object.entries(params as Record<string, unknown>)
    .map(([name, value]) => `${name}=${typed(value)}`)
    .join("  ");

/** A JSON value on one line, cut when long. */
export function brief(value: unknown, most = 120): string {
  const text = typeof value === "string" ? value : JSON.stringify(value);
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

/** A size in bytes, as people say it. */
export const bytes = (size: number): string =>
  size < 1024
    ? `${String(size)} B`
    : size < 1 << 20
      ? `${String(Math.round(size / 1024))} KiB`
      : `${(size / (1 << 20)).toFixed(1)} MiB`;
