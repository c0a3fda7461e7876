import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import type { RunDetail } from "../../core/api/types";
import { between } from "../../core/format";
import { legSpans, rowsOf } from "../../core/runs/runRows";
import { wholeAxis } from "../../core/runs/timeAxis";
import { StateMark } from "./StateMark";
import { AxisHead, axisOf, Lane, wheeled } from "./Timeline";

/** From how many lines on only those in sight are drawn. */
const MANY = 200;

/** How tall a line is, in pixels. */
const rowHeight = 27;

/** The steps as a tree, and beside each line its attempts on a time axis. Arrow keys walk, left and right fold. */
export function RunGrid({
  run,
  now,
  chosen,
  choose,
}: {
  run: RunDetail;
  now: number;
  chosen: string | null;
  choose: (path: string) => void;
}) {
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => rowsOf(run, folded), [run, folded]);
  const [window, setWindow] = useState(wholeAxis);
  const axis = axisOf(legSpans(run, now), window);
  const fold = (key: string, shut: boolean) =>
    setFolded((before) => {
      const after = new Set(before);
      if (shut) after.add(key);
      else after.delete(key);
      return after;
    });

  const many = rows.length > MANY;
  // Of thousands of lines only those in sight are there.
  const scroll = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  // What is chosen elsewhere comes into sight.
  const at = chosen === null ? -1 : rows.findIndex((r) => r.path === chosen);
  useEffect(() => {
    if (at >= 0 && many) list.scrollToIndex(at, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another one is chosen
  }, [chosen]);
  // The wheel goes along and closer in time, and not the page.
  useEffect(() => {
    const grid = scroll.current;
    const turn = (event: WheelEvent) => {
      const lane = grid?.querySelector(".legs")?.getBoundingClientRect();
      const next = lane && wheeled(event, lane, window);
      if (!next) return;
      event.preventDefault();
      setWindow(next);
    };
    grid?.addEventListener("wheel", turn, { passive: false });
    return () => grid?.removeEventListener("wheel", turn);
  }, [window]);
  const lines = many ? list.getVirtualItems() : [];
  return (
    <div className="grid" role="region" aria-label="Steps and timeline" tabIndex={0} ref={scroll}>
      <div className="row head">
        <span style={{ paddingLeft: 14 }}>step</span>
        <span>state</span>
        <span className="time">took</span>
        <AxisHead axis={axis} show={setWindow} />
      </div>
      {many && <div style={{ height: lines[0]?.start ?? 0 }} />}
      {(many ? lines.flatMap((line) => rows[line.index] ?? []) : rows).map((row) => (
        <div
          key={row.key}
          className="row"
          aria-current={row.path !== null && row.path === chosen}
          data-row={row.key}
          onClick={() => row.path && choose(row.path)}
        >
          <span className="what" style={{ paddingLeft: 4 + row.depth * 14 }}>
            {row.holds ? (
              <button
                className="fold"
                type="button"
                aria-expanded={!folded.has(row.key)}
                aria-label={`Fold ${row.name}`}
                onClick={(e) => {
                  e.stopPropagation();
                  fold(row.key, !folded.has(row.key));
                }}
              >
                {folded.has(row.key) ? "▹" : "▿"}
              </button>
            ) : (
              <span style={{ width: 18, flex: "none" }} />
            )}
            {row.path === null ? (
              <span className="text soft">{row.name}</span>
            ) : (
              <button
                type="button"
                className="text"
                style={{ all: "unset", cursor: "pointer", overflow: "hidden", textOverflow: "ellipsis" }}
                title={row.message ?? row.path}
                onClick={(e) => {
                  e.stopPropagation();
                  choose(row.path ?? "");
                }}
              >
                {row.name}
              </button>
            )}
          </span>
          <StateMark state={row.state} />
          <span className="time">{row.state === "skipped" ? "" : between(row.started, row.ended, now)}</span>
          <Lane row={row} axis={axis} now={now} />
        </div>
      ))}
      {many && <div style={{ height: list.getTotalSize() - (lines.at(-1)?.end ?? 0) }} />}
    </div>
  );
}
