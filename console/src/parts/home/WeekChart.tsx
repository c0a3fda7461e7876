import type { HomeInfo } from "../../core/api/types";

const hour = 3_600_000;
const shown = 7 * 24;

/** How many hours one bar is. */
const together = 2;

/** How runs ended by time: those that succeeded above the line, the others below it. */
export function WeekChart({ hours, now }: { hours: HomeInfo["hours"]; now: number }) {
  const end = (Math.floor(now / hour) + 1) * hour;
  const bars = Array.from({ length: shown / together }, () => ({ good: 0, bad: 0 }));
  for (const h of hours) {
    const at = Math.floor((shown - (end - Date.parse(h.hour)) / hour) / together);
    const bar = bars[at];
    if (!bar) continue;
    bar.good += h.succeeded;
    bar.bad += h.failed + h.stopped;
  }
  const most = Math.max(1, ...bars.map((b) => Math.max(b.good, b.bad)));
  const [width, above, below] = [bars.length * 4, 56, 30];
  const tall = (n: number, room: number) => (n === 0 ? 0 : Math.max(2, (n / most) * room));
  const sum = (of: (h: HomeInfo["hours"][number]) => number, since: number) =>
    hours.filter((h) => Date.parse(h.hour) > end - since).reduce((all, h) => all + of(h), 0);
  const counts = (since: number) => ({
    good: sum((h) => h.succeeded, since),
    bad: sum((h) => h.failed, since),
    stopped: sum((h) => h.stopped, since),
  });
  const [day, week] = [counts(24 * hour), counts(7 * 24 * hour)];
  const words = ({ good, bad, stopped }: typeof day) =>
    `${good.toLocaleString("en")} succeeded, ${bad.toLocaleString("en")} failed${stopped > 0 ? `, ${stopped.toLocaleString("en")} stopped` : ""}`;
  return (
    <div className="sheet weekchart">
      <svg
        viewBox={`0 0 ${String(width)} ${String(above + below)}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`In the last seven days ${words(week)}; in the last day ${words(day)}`}
      >
        {Array.from({ length: 7 }, (_, i) => (
          <line key={i} x1={(i * width) / 7} x2={(i * width) / 7} y1={0} y2={above + below} className="day" />
        ))}
        {bars.map((bar, i) => (
          <g key={i}>
            <rect
              x={i * 4 + 0.5}
              width={3}
              y={above - tall(bar.good, above)}
              height={tall(bar.good, above)}
              className="good"
            />
            <rect x={i * 4 + 0.5} width={3} y={above + 1} height={tall(bar.bad, below - 1)} className="bad" />
          </g>
        ))}
        <line x1={0} x2={width} y1={above + 0.5} y2={above + 0.5} className="axis" />
      </svg>
      <dl>
        <dt>last day</dt>
        <dd>{words(day)}</dd>
        <dt>last week</dt>
        <dd>{words(week)}</dd>
      </dl>
    </div>
  );
}
