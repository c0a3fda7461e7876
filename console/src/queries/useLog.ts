import { useInfiniteQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { getLog, searchLog } from "../core/api/client";
import type { LogLevel } from "../core/runs/logLines";
import {
  hasAfter,
  hasBefore,
  nothingRead,
  partSize,
  takePage,
  type LogWindow,
  type PagePlace,
} from "../core/runs/logWindow";
import { keys } from "./keys";

/** Pause between two looks for more, in milliseconds: while there is nothing new, and after an error. */
const pauses = { idle: 400, failed: 2_000 };

/** Behind every end of a log, in bytes. */
const behind = Number.MAX_SAFE_INTEGER;

export interface Log {
  window: LogWindow;
  isReading: boolean;
  /** Reads what comes before or after what is at hand, if there is something. */
  readBefore: () => void;
  readAfter: () => void;
  /** Goes to the line that begins at an offset in bytes, to the beginning, or to the end. */
  goTo: (at: number | "end") => void;
}

/**
 * The log of an attempt: a stretch of it, which moves to where the person goes.
 * @param atEnd whether it opens at the end
 * @param follow whether it is read further while the attempt is running
 */
export function useLog(run: number, path: string, attempt: number | undefined, atEnd: boolean, follow: boolean): Log {
  const [window, setWindow] = useState(nothingRead);
  const [isReading, setReading] = useState(false);
  // One at a time; what was asked for before somebody went elsewhere counts for nothing.
  const turn = useRef({ asked: 0, busy: false });

  const read = useCallback(
    async (offset: { from: number } | { before: number }, where: PagePlace) => {
      const now = turn.current;
      if (attempt === undefined || (now.busy && (where === "before" || where === "after"))) return;
      const mine = ++now.asked;
      now.busy = true;
      setReading(true);
      try {
        const page = await getLog(run, path, attempt, { ...offset, most: partSize });
        if (mine === now.asked) setWindow((w) => takePage(w, page, where));
      } catch {
        // What could not be read is asked for again when somebody goes there, or by the next look.
      } finally {
        if (mine === now.asked) {
          now.busy = false;
          setReading(false);
        }
      }
    },
    [run, path, attempt],
  );
  const goTo = useCallback(
    (at: number | "end") =>
      void (at === "end" ? read({ before: behind }, "anew at the end") : read({ from: at }, "anew")),
    [read],
  );

  useEffect(() => {
    const now = turn.current;
    setWindow(nothingRead);
    goTo(atEnd ? "end" : 0);
    return () => {
      now.asked++;
      now.busy = false;
    };
    // Where it opens is asked once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [goTo]);

  const end = window.parts.at(-1)?.next ?? 0;
  const isOpen = window !== nothingRead;
  const waits = !isOpen || (window.running && (follow || end === 0));
  useEffect(() => {
    if (!waits || isReading) return;
    const timer = setTimeout(
      () => {
        if (isOpen) void read({ from: end }, "after");
        else goTo(atEnd ? "end" : 0);
      },
      isOpen ? pauses.idle : pauses.failed,
    );
    return () => clearTimeout(timer);
  }, [waits, isOpen, window, isReading, end, read, goTo, atEnd]);

  return {
    window,
    isReading,
    readBefore: () => {
      if (hasBefore(window)) void read({ before: window.parts[0]?.from ?? 0 }, "before");
    },
    readAfter: () => {
      if (hasAfter(window)) void read({ from: end }, "after");
    },
    goTo,
  };
}

/** How many found lines are shown; more are looked for when somebody asks. */
const mostFound = 1_000;

/** The lines of a log that hold a text or are of a level, found by the service. */
export function useLogSearch(
  run: number,
  path: string,
  attempt: number | undefined,
  text: string,
  level: LogLevel | null,
) {
  const query = useInfiniteQuery({
    queryKey: keys.logSearch(run, path, attempt, text, level),
    queryFn: ({ pageParam, signal }) => searchLog(run, path, attempt, { text, level, from: pageParam }, signal),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.next < last.size ? last.next : undefined),
    enabled: attempt !== undefined && (text !== "" || level !== null),
    gcTime: 0,
  });
  const hits = (query.data?.pages ?? []).flatMap((page) => page.hits);
  const [wanted, setWanted] = useState(mostFound);
  const { hasNextPage, isFetching, fetchNextPage } = query;
  useEffect(() => {
    if (hasNextPage && !isFetching && hits.length < wanted) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage, hits.length, wanted]);
  return {
    hits,
    isSearching: isFetching,
    /** Looks for more; null when all of the log was looked through. */
    searchOn: hasNextPage ? () => setWanted(hits.length + mostFound) : null,
  };
}
