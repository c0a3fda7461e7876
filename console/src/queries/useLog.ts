import { useEffect, useRef, useState } from "react";
import { getLog } from "../core/api/client";
import { takeLines, type LogLevel, type LogLine } from "../core/runs/logLines";

/** How many lines are read without being asked: more would fill the browser's memory. */
const mostLines = 200_000;

/** How many lines a page has at most: what is drawn and hidden together. */
const pageLines = 500;

const inPages = (lines: readonly LogLine[]) =>
  Array.from({ length: Math.ceil(lines.length / pageLines) }, (_, i) =>
    lines.slice(i * pageLines, (i + 1) * pageLines),
  );

/** Pause between two looks for more, in milliseconds: while there is nothing new, and after an error. */
const pauses = { idle: 400, failed: 2_000 };

/** All of a log as the service has it. */
export async function readWholeLog(run: number, path: string, attempt: number): Promise<string[]> {
  const texts: string[] = [];
  for (let from = 0; ;) {
    const page = await getLog(run, path, attempt, from);
    if (page.text === "") return texts;
    texts.push(page.text);
    from = page.next;
  }
}

export interface Log {
  pages: readonly (readonly LogLine[])[];
  lines: number;
  isReading: boolean;
  /** Reads further; null when everything there is has been read, or is being read. */
  readOn: (() => void) | null;
}

/** The log of an attempt from its first line on, page by page; while the attempt is running it is read further. */
export function useLog(run: number, path: string, attempt: number | undefined): Log {
  const [pages, setPages] = useState<readonly (readonly LogLine[])[]>([]);
  const [isReading, setReading] = useState(false);
  const [isFull, setFull] = useState(false);
  const limit = useRef(mostLines);
  const readOn = useRef<() => void>(() => undefined);

  useEffect(() => {
    let wanted = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let [rest, count] = ["", 0];
    let level: LogLevel = "out";
    limit.current = mostLines;
    setPages([]);
    setFull(false);
    const read = async (from: number) => {
      try {
        const page = await getLog(run, path, attempt, from);
        if (!wanted) return;
        // The last line of an attempt that has ended may have no end of its own.
        const text = rest + page.text + (page.ended && rest !== "" && page.text === "" ? "\n" : "");
        const taken = takeLines(text, level);
        ({ rest, level } = taken);
        count += taken.lines.length;
        if (taken.lines.length > 0) setPages((before) => [...before, ...inPages(taken.lines)]);
        const full = count >= limit.current;
        setReading(page.text !== "" && !full);
        setFull(full && !page.ended);
        readOn.current = () => {
          limit.current = count + mostLines;
          setFull(false);
          void read(page.next);
        };
        if (!page.ended && !full) timer = setTimeout(() => void read(page.next), page.text === "" ? pauses.idle : 0);
      } catch {
        if (wanted) timer = setTimeout(() => void read(from), pauses.failed);
      }
    };
    if (attempt !== undefined) void read(0);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [run, path, attempt]);

  const lines = pages.reduce((sum, page) => sum + page.length, 0);
  return { pages, lines, isReading, readOn: isFull ? () => readOn.current() : null };
}
