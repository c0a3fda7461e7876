import { useRef, type CSSProperties } from "react";
import { between, clock } from "../../core/format";
import { placeOf, type LegSpan, type Row } from "../../core/runs/runRows";
import { inWindow, moved, ticksOf, wholeAxis, zoomed, type Tick, type TimeWindow } from "../../core/runs/timeAxis";

/** How many marks the axis has, about. */
const marks = 5;

/** How far a turn of the wheel goes. */
const pace = 1.25;

/** The axis, and what of it is in view. */
export interface Axis {
  spans: readonly LegSpan[];
  window: TimeWindow;
  ticks: readonly Tick[];
}

export const axisOf = (spans: readonly LegSpan[], window: TimeWindow): Axis => ({
  spans,
  window,
  ticks: ticksOf(spans, window, marks),
});

/** The marks of time over the lines: the wheel with Ctrl goes closer, with Shift along; the buttons do it too. */
export function AxisHead({ axis, show }: { axis: Axis; show: (window: TimeWindow) => void }) {
  const host = useRef<HTMLDivElement>(null);
  const isWhole = axis.window.to - axis.window.from === 1;
  return (
    <div className="legs" ref={host}>
      {axis.ticks.map((tick) => (
        <span
          key={`${tick.text} ${String(tick.place)}`}
          style={tick.place > 0.88 ? { right: 0 } : { left: `${String(tick.place * 100)}%` }}
        >
          {tick.text}
        </span>
      ))}
      <div className="axisbuttons">
        <button
          type="button"
          aria-label="Closer"
          title="Closer (Ctrl+wheel)"
          onClick={() => show(zoomed(axis.window, 2, 0.5))}
        >
          +
        </button>
        {!isWhole && (
          <>
            <button type="button" aria-label="Farther" onClick={() => show(zoomed(axis.window, 0.5, 0.5))}>
              −
            </button>
            <button type="button" aria-label="Earlier" onClick={() => show(moved(axis.window, -0.5))}>
              ‹
            </button>
            <button type="button" aria-label="Later" onClick={() => show(moved(axis.window, 0.5))}>
              ›
            </button>
            <button type="button" onClick={() => show(wholeAxis)}>
              whole
            </button>
          </>
        )}
      </div>
    </div>
  );
}

/** What the wheel does over the timeline; null where it only scrolls. */
export function wheeled(event: WheelEvent, lane: DOMRect, window: TimeWindow): TimeWindow | null {
  if (event.clientX < lane.left) return null;
  if (event.ctrlKey)
    return zoomed(window, event.deltaY < 0 ? pace : 1 / pace, (event.clientX - lane.left) / lane.width);
  if (event.shiftKey) return moved(window, Math.sign(event.deltaY || event.deltaX) * 0.1);
  return null;
}

function barOf(from: number, to: number, leg: number, { spans, window }: Axis): CSSProperties {
  const left = inWindow(placeOf(from, leg, spans), window);
  const right = inWindow(placeOf(to, leg, spans), window);
  return { left: `${String(left * 100)}%`, width: `${String((right - left) * 100)}%` };
}

/** The attempts of a line, and apart from work what it waited for. */
export function Lane({ row, axis, now }: { row: Row; axis: Axis; now: number }) {
  const at = (time: string | null) => (time === null ? now : Date.parse(time));
  const times = (from: string, to: string | null) =>
    `${clock(from, now)} to ${to === null ? "now" : clock(to, now)}, ${between(from, to, now)}`;
  return (
    <div className="lane" style={linesOf(axis.ticks)}>
      {axis.spans.slice(1).map((span) => (
        <u
          key={span.leg}
          style={{ left: `${String(inWindow(placeOf(span.from, span.leg, axis.spans), axis.window) * 100)}%` }}
        />
      ))}
      {row.held && (
        <i
          data-state="held"
          title={`held by its guard: ${times(row.held.from, row.held.to)}`}
          style={barOf(at(row.held.from), at(row.held.to), row.held.leg, axis)}
        />
      )}
      {row.attempts.map((attempt, i) => {
        const before = row.attempts[i - 1];
        const isRest = before?.ended != null && before.leg === attempt.leg;
        return (
          <span key={attempt.number}>
            {isRest && (
              <i
                data-state="resting"
                title={`rests until the next attempt: ${times(before.ended ?? "", attempt.started)}`}
                style={barOf(at(before.ended), at(attempt.started), attempt.leg, axis)}
              />
            )}
            <i
              data-state={attempt.result}
              title={`leg ${String(attempt.leg)}, attempt ${String(attempt.attempt)}: ${attempt.result}, ${times(attempt.started, attempt.ended)}`}
              style={barOf(at(attempt.started), at(attempt.ended), attempt.leg, axis)}
            />
          </span>
        );
      })}
    </div>
  );
}

/** Faint lines where the marks are. */
const linesOf = (ticks: readonly Tick[]): CSSProperties => ({
  backgroundImage: ticks.map(() => "linear-gradient(var(--tick), var(--tick))").join(", "),
  backgroundPosition: ticks.map((t) => `${String(t.place * 100)}% 0`).join(", "),
});
