import type { LogPage } from "../api/types";
import { takeLines, type LogLine } from "./logLines";

/** How much of a log is read at once, in bytes. */
export const partSize = 96 * 1024;

/** How many parts are kept at most: more would fill the browser's memory, and nobody looks at them. */
const mostParts = 12;

/** Lines of a log that were read together. */
export interface LogPart {
  /** Where they begin and end, in bytes. */
  from: number;
  next: number;
  lines: readonly LogLine[];
}

/** The stretch of a log that is at hand; what lies before and after it is read when somebody goes there. */
export interface LogWindow {
  /** Without gaps. */
  parts: readonly LogPart[];
  /** How many bytes the log has, as far as is known. */
  size: number;
  /** Whether the attempt may still say more. */
  running: boolean;
  /** Whether it was opened to show its end. */
  atEnd: boolean;
}

export const nothingRead: LogWindow = { parts: [], size: 0, running: true, atEnd: false };

export const hasBefore = ({ parts }: LogWindow) => (parts[0]?.from ?? 0) > 0;

export const hasAfter = ({ parts, size }: LogWindow) => (parts.at(-1)?.next ?? size) < size;

export const linesIn = ({ parts }: LogWindow) => parts.reduce((sum, part) => sum + part.lines.length, 0);

/** Where a page belongs: it takes the place of all that is at hand, to show its begin or its end, or is put to it. */
export type PagePlace = "anew" | "anew at the end" | "before" | "after";

/** Takes a page in, and lets go of what is farthest from it. */
export function takePage(window: LogWindow, page: LogPage, where: PagePlace): LogWindow {
  const isNew = where === "anew" || where === "anew at the end";
  const known = {
    size: Math.max(page.size, page.next),
    running: page.running,
    atEnd: isNew ? where === "anew at the end" : window.atEnd,
  };
  const before = isNew ? [] : window.parts;
  if (page.text === "") return { ...known, parts: before };
  // A page that does not fit is of another stretch: somebody has gone on meanwhile.
  if (before.length > 0 && (where === "before" ? page.next !== before[0]?.from : page.from !== before.at(-1)?.next))
    return window;
  const level = where === "after" ? (before.at(-1)?.lines.at(-1)?.level ?? "out") : "out";
  // The last line of a log may have no end of its own.
  const { lines } = takeLines(page.text.endsWith("\n") ? page.text : `${page.text}\n`, level);
  const part = { from: page.from, next: page.next, lines };
  return {
    ...known,
    parts: where === "before" ? [part, ...before].slice(0, mostParts) : [...before, part].slice(-mostParts),
  };
}

/** What is at hand of the log, for people. */
export function extentOf(window: LogWindow): string {
  const count = linesIn(window);
  if (!hasBefore(window) && !hasAfter(window)) return count === 1 ? "1 line" : `${count.toLocaleString("en")} lines`;
  const percent = (at: number) => String(Math.floor((100 * at) / window.size));
  const size =
    window.size < 1e6 ? `${String(Math.ceil(window.size / 1e3))} kB` : `${(window.size / 1e6).toFixed(1)} MB`;
  return `${percent(window.parts[0]?.from ?? 0)} to ${percent(window.parts.at(-1)?.next ?? 0)} % of ${size}`;
}
