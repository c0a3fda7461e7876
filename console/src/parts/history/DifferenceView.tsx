import { Link } from "@tanstack/react-router";
import { Fragment } from "react";
import type { DifferenceInfo, StepHistoryInfo } from "../../core/api/types";
import { between, brief, dayAndClock, releaseName, took } from "../../core/format";
import { StateMark } from "../run/StateMark";

type Run = DifferenceInfo["a"];

/** Two runs beside each other, what differs first. */
export function DifferenceView({
  found,
  titles,
}: {
  found: DifferenceInfo;
  /** Of the chain's steps, by address. */
  titles: ReadonlyMap<string, string>;
}) {
  const { a, b, steps } = found;
  const values = [
    ...found.params.map((v) => ({ ...v, what: "parameter" })),
    ...found.profile.map((v) => ({ ...v, what: "profile" })),
    ...found.outputs.map((v) => ({ ...v, what: "output" })),
  ];
  return (
    <div className="difference">
      <table className="dense sheet sides">
        <thead>
          <tr>
            <td />
            <th scope="col">
              <Link to="/runs/$id" params={{ id: String(a.id) }}>
                run {a.id}
              </Link>
              , before
            </th>
            <th scope="col">
              <Link to="/runs/$id" params={{ id: String(b.id) }}>
                run {b.id}
              </Link>
            </th>
          </tr>
        </thead>
        <tbody>
          <Side title="State" differs={a.state !== b.state} of={(run) => <StateMark state={run.state} />} a={a} b={b} />
          <Side title="Started" of={(run) => dayAndClock(run.started)} a={a} b={b} />
          <Side title="Took" of={(run) => between(run.started, run.ended, Date.now())} a={a} b={b} />
          <tr data-differs={!found.sameContent}>
            <th scope="row">Content</th>
            <td>{releaseName(found.numberA)}</td>
            <td>
              {found.sameContent ? "the same" : releaseName(found.numberB)}
              {!found.sameContent && (
                <Link className="small" to="/chains/$name/design" params={{ name: b.chain }}>
                  {" "}
                  what changed, under Versions
                </Link>
              )}
            </td>
          </tr>
          {values.map((v) => (
            <tr key={`${v.what} ${v.name}`} data-differs>
              <th scope="row">
                {v.name} <span className="soft small">{v.what}</span>
              </th>
              <td className="mono">{text(v.a)}</td>
              <td className="mono">{text(v.b)}</td>
            </tr>
          ))}
          {b.error !== null && (
            <tr data-differs>
              <th scope="row">Why it failed</th>
              <td />
              <td>{b.error}</td>
            </tr>
          )}
        </tbody>
      </table>
      {found.partsAt !== null && (
        <p className="parts">
          They part at{" "}
          <Link to="/runs/$id" params={{ id: String(b.id) }} search={{ step: found.partsAt }}>
            {titles.get(found.partsAt) ?? <code>{found.partsAt}</code>}
          </Link>
          : {sentence(steps.find((s) => s.address === found.partsAt))}
        </p>
      )}
      <table className="dense sheet stepdiff">
        <thead>
          <tr>
            <th scope="col">Step</th>
            <th scope="col" colSpan={2}>
              State
            </th>
            <th scope="col" colSpan={2}>
              Took
            </th>
            <th scope="col" colSpan={2}>
              Rows read
            </th>
            <th scope="col" colSpan={2}>
              Rows rejected
            </th>
          </tr>
        </thead>
        <tbody>
          {steps.map((step) => (
            <Fragment key={step.address}>
              <tr data-differs={step.differs}>
                <th scope="row" style={{ paddingLeft: 12 + 14 * (step.address.split("/").length - 1) }}>
                  <Link to="/runs/$id" params={{ id: String(b.id) }} search={{ step: step.address }}>
                    {titles.get(step.address) ?? step.address}
                  </Link>
                </th>
                <Sides a={step.a} b={step.b} />
              </tr>
              {step.items.map((item) => (
                <tr key={item.items} data-differs className="item">
                  <th scope="row">{item.items}</th>
                  <Sides a={item.a} b={item.b} />
                </tr>
              ))}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const text = (value: unknown) => (value === null || value === undefined ? "nothing" : brief(value, 160));
const count = (n: number) => n.toLocaleString("en");
const numberOf = (n: number | null | undefined) => (n == null ? null : Number(n));
const other = (a: number, b: number) => a !== b;
const slower = (a: number, b: number) => b > 1.5 * a && b - a > 500;

function Side({
  title,
  of,
  a,
  b,
  differs = false,
}: {
  title: string;
  of: (run: Run) => React.ReactNode;
  a: Run;
  b: Run;
  differs?: boolean;
}) {
  return (
    <tr data-differs={differs}>
      <th scope="row">{title}</th>
      <td>{of(a)}</td>
      <td>{of(b)}</td>
    </tr>
  );
}

/** How a step went in both runs. */
function Sides({ a, b }: { a: StepHistoryInfo | null | undefined; b: StepHistoryInfo | null | undefined }) {
  return (
    <>
      {([a, b] as const).map((side, i) => (
        <td key={i}>{side ? <StateMark state={side.state} /> : ""}</td>
      ))}
      <Pair a={a} b={b} of={(s) => (s.count > 0 ? Number(s.span) : null)} words={took} loud={slower} />
      <Pair a={a} b={b} of={(s) => numberOf(s.read)} words={count} loud={other} />
      <Pair a={a} b={b} of={(s) => numberOf(s.rejected)} words={count} loud={other} />
    </>
  );
}

/** A number of both runs; loud where it is what one looks for. */
function Pair({
  a,
  b,
  of,
  words,
  loud,
}: {
  a: StepHistoryInfo | null | undefined;
  b: StepHistoryInfo | null | undefined;
  of: (step: StepHistoryInfo) => number | null;
  words: (n: number) => string;
  loud: (a: number, b: number) => boolean;
}) {
  const [x, y] = [a ? of(a) : null, b ? of(b) : null];
  const isLoud = x !== null && y !== null && loud(x, y);
  return (
    <>
      <td className="num soft">{x === null ? "" : words(x)}</td>
      <td className="num" data-loud={isLoud}>
        {y === null ? "" : words(y)}
      </td>
    </>
  );
}

function sentence(step: DifferenceInfo["steps"][number] | undefined): string {
  if (!step) return "";
  if (step.items.length > 0)
    return `${step.items
      .slice(0, 3)
      .map((item) => `${item.items}: ${sides(item.a, item.b)}`)
      .join("; ")}.`;
  return `${sides(step.a, step.b)}.`;
}

/** What two sides of a step had differently, in words. */
function sides(a: StepHistoryInfo | null | undefined, b: StepHistoryInfo | null | undefined): string {
  if (!a) return "the run before had not come to it";
  if (!b) return "this run has not come to it";
  const rows = (was: number | string | null | undefined, is: number | string | null | undefined, what: string) =>
    was == null || is == null || was === is ? "" : `${count(Number(is))} rows ${what}, ${count(Number(was))} before`;
  return [
    a.state === b.state ? "" : `${b.state}, ${a.state} before`,
    rows(a.rejected, b.rejected, "rejected"),
    rows(a.read, b.read, "read"),
    rows(a.written, b.written, "written"),
    (a.failed === b.failed && a.count === b.count) || Math.max(a.count, b.count) <= 1
      ? ""
      : `${String(b.failed)} of ${String(b.count)} failed, ${String(a.failed)} of ${String(a.count)} before`,
  ]
    .filter((p) => p !== "")
    .join(", ");
}
