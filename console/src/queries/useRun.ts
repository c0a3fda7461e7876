import { useEffect, useState } from "react";
import { Refused } from "../core/api/call";
import { getRun } from "../core/api/client";
import type { RunDetail } from "../core/api/types";
import { followRun } from "../core/live/streams";
import { applyPatch } from "../core/runs/runModel";

/**
 * A run, kept up to date as it continues; with a leg, as it was when that leg ended. Nothing is asked for while it is
 * not wanted.
 */
export function useRun(
  id: number,
  leg: number | undefined,
  wanted = true,
): { run: RunDetail | null; error: string | null } {
  const [run, setRun] = useState<RunDetail | null>(null);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    let live = true;
    setError(null);
    setRun(null);
    if (!wanted) return;
    getRun(id, leg).then(
      (found) => live && setRun((known) => known ?? found),
      (e: unknown) => live && setError(e instanceof Refused ? e.message : String(e)),
    );
    const end =
      leg === undefined
        ? followRun(id, setRun, (patch) => setRun((known) => known && applyPatch(known, patch)))
        : undefined;
    return () => {
      live = false;
      end?.();
    };
  }, [id, leg, wanted]);
  return { run, error };
}
