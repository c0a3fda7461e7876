import { useComputedColorScheme } from "@mantine/core";
import { useEffect, useMemo, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import type { LegInfo } from "../../core/api/types";
import { took } from "../../core/format";
import { goodLength } from "../../core/history/legs";
import { rolling } from "../../core/history/statistics";

/** So many runs a line of "as usual" is taken from. */
const window = 15;

interface Series {
  label: string;
  values: (number | null)[];
  colour: string;
  dots?: boolean;
  dashed?: boolean;
}

/** How long runs, or a step of them, took; and what rows the step read, wrote and rejected. The oldest at the left. */
export default function Charts({ legs, step }: { legs: readonly LegInfo[]; step: string | undefined }) {
  const old = useMemo(() => legs.toReversed(), [legs]);
  const runs = useMemo(() => old.map((l) => l.run), [old]);
  const rows = useMemo(() => {
    const of = (key: "read" | "written" | "rejected") =>
      old.map((leg) => {
        const n = step === undefined ? undefined : leg.steps[step]?.[key];
        return n == null ? null : Number(n);
      });
    return { read: of("read"), written: of("written"), rejected: of("rejected") };
  }, [old, step]);
  const durations = useMemo(() => old.map((leg) => goodLength(leg, step)), [old, step]);
  const hasRows = Object.values(rows).some((all) => all.some((n) => n !== null));
  return (
    <div className="sheet charts" data-two={hasRows}>
      <Chart
        title="How long it took when it succeeded"
        runs={runs}
        series={[
          { label: "usual", values: rolling(durations, 0.5, window), colour: "--accent" },
          { label: "one in ten was quicker", values: rolling(durations, 0.1, window), colour: "--border" },
          { label: "one in ten was slower", values: rolling(durations, 0.9, window), colour: "--border" },
          { label: "took", values: durations, colour: "--ink", dots: true },
        ]}
        words={took}
        band
      />
      {hasRows && (
        <Chart
          title="Rows"
          runs={runs}
          series={[
            { label: "read", values: rows.read, colour: "--accent" },
            { label: "written", values: rows.written, colour: "--work", dashed: true },
            { label: "rejected", values: rows.rejected, colour: "--failed", dots: true },
          ]}
          words={(n) => n.toLocaleString("en")}
        />
      )}
    </div>
  );
}

function Chart({
  title,
  runs,
  series,
  words,
  band = false,
}: {
  title: string;
  runs: readonly number[];
  series: readonly Series[];
  words: (n: number) => string;
  /** Whether the second and third line are the edges of a band. */
  band?: boolean;
}) {
  const host = useRef<HTMLDivElement>(null);
  const scheme = useComputedColorScheme("light");
  useEffect(() => {
    const at = host.current;
    if (!at) return;
    const colour = (name: string) => getComputedStyle(at).getPropertyValue(name).trim();
    const axis = {
      stroke: colour("--soft"),
      grid: { stroke: colour("--line"), width: 1 },
      ticks: { show: false },
      font: "12px Inter, sans-serif",
    };
    const plot = new uPlot(
      {
        width: at.clientWidth,
        height: 190,
        scales: { x: { time: false }, y: { range: (_u, _min, max) => [0, (max || 1) * 1.08] } },
        axes: [
          { ...axis, values: (_u, all) => all.map((n) => (Number.isInteger(n) ? `run ${String(n)}` : "")) },
          { ...axis, size: 68, values: (_u, all) => all.map(words) },
        ],
        series: [
          { label: "run" },
          ...series.map((s) => ({
            label: s.label,
            stroke: colour(s.colour),
            width: s.dots ? 0 : 1.6,
            dash: s.dashed ? [5, 4] : undefined,
            points: { show: s.dots === true, size: 5, fill: colour(s.colour) },
            spanGaps: true,
            value: (_u: uPlot, n: number | null) => (n === null ? "–" : words(n)),
          })),
        ],
        bands: band ? [{ series: [3, 2], fill: `${colour("--accent")}1f` }] : undefined,
        legend: { live: true },
        cursor: { y: false },
      },
      [[...runs], ...series.map((s) => s.values)] as uPlot.AlignedData,
      at,
    );
    const sized = new ResizeObserver(() => plot.setSize({ width: at.clientWidth, height: 190 }));
    sized.observe(at);
    return () => {
      sized.disconnect();
      plot.destroy();
    };
  }, [runs, series, words, band, scheme]);
  const last = series.at(-1);
  const known = last?.values.filter((n) => n !== null) ?? [];
  return (
    <figure>
      <figcaption>{title}</figcaption>
      <div
        ref={host}
        role="img"
        aria-label={
          known.length === 0
            ? `${title}: nothing is known`
            : `${title}: ${last?.label ?? ""} ${words(Math.min(...known))} to ${words(Math.max(...known))}, ${words(known.at(-1) ?? 0)} in the latest`
        }
      />
    </figure>
  );
}
