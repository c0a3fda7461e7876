/** Where a line of a log comes from: the program's output, its error output, or the service. */
export type LogLevel = "out" | "err" | "note";

/** A line of a log, as the service writes it: `2026-11-22T02:30:01.123Z err  text`. */
export interface LogLine {
  /** Hours, minutes and seconds, UTC; empty for a line that continues another one. */
  at: string;
  level: LogLevel;
  text: string;
}

/**
 * Takes the whole lines off a text that was read.
 * @param level the level of the line before, which lines without one continue
 * @returns the lines, and the begin of a line whose end has not been read yet
 */
export function takeLines(text: string, level: LogLevel = "out"): { lines: LogLine[]; rest: string; level: LogLevel } {
  const end = text.lastIndexOf("\n") + 1;
  const lines: LogLine[] = [];
  for (const line of text.slice(0, end).split("\n").slice(0, -1)) {
    const found = /^\S+T(\S+)Z (out|err|note) +(.*)$/.exec(line);
    if (found) level = found[2] as LogLevel;
    lines.push({ at: found?.[1] ?? "", level, text: found ? (found[3] ?? "") : line });
  }
  return { lines, rest: text.slice(end), level };
}
