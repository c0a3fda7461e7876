import { Link } from "@tanstack/react-router";
import type { RunSummary } from "../../core/api/types";
import { between, brief, clock, parametersLine, typed } from "../../core/format";
import { inColumnOrder, parameterOf, runColumns, type RunColumn } from "../../core/runs/runColumns";
import type { Column } from "../table/DataTable";
import { StateMark } from "./StateMark";

const cells: Record<RunColumn, (now: number) => Omit<Column<RunSummary>, "title">> = {
  chain: () => ({
    cell: (run) => (
      <>
        {run.chain} <Origin run={run} />
      </>
    ),
  }),
  state: () => ({
    cell: (run) => (
      <>
        <StateMark state={run.state} /> {run.late && <span className="late">⧗ late</span>}
      </>
    ),
  }),
  leg: () => ({ numeric: true, cell: (run) => run.leg }),
  started: (now) => ({ className: "soft", cell: (run) => clock(run.started, now) }),
  ended: (now) => ({ className: "soft", cell: (run) => (run.ended == null ? "" : clock(run.ended, now)) }),
  took: (now) => ({ numeric: true, cell: (run) => between(run.started, run.ended, now) }),
  by: () => ({ cell: (run) => run.by }),
  trigger: () => ({ cell: (run) => run.trigger != null && <TriggerLink name={run.trigger} /> }),
  parent: () => ({ cell: (run) => run.parent && <ParentLink run={run.parent.run} step={run.parent.step} /> }),
  why: (now) => ({
    className: "why",
    hint: (run) => run.error ?? undefined,
    cell: (run) => (
      <>
        {run.resumeAt != null && `◔ resumes automatically at ${clock(run.resumeAt, now)}; `}
        {run.error ?? parametersLine(run.params)}
      </>
    ),
  }),
};

/** The columns of the list of runs that somebody has chosen. */
export function columnsOf(chosen: readonly string[], now: number): Column<RunSummary>[] {
  const shown = inColumnOrder(chosen);
  const number: Column<RunSummary> = {
    title: "Run",
    numeric: true,
    cell: (run) => (
      <Link to="/runs/$id" params={{ id: String(run.id) }}>
        {run.id}
      </Link>
    ),
  };
  return [
    number,
    ...shown.map((name): Column<RunSummary> => {
      const parameter = parameterOf(name);
      if (parameter !== null) return { title: parameter, className: "mono", cell: (run) => valueOf(run, parameter) };
      const column = runColumns.find((c) => c.name === name);
      return { title: column?.title, ...cells[name as RunColumn](now) };
    }),
  ];
}

const valueOf = ({ params }: RunSummary, name: string) => {
  const value = (params as Record<string, unknown> | null)?.[name];
  return value === undefined ? "" : brief(typed(value), 40);
};

/** Where a run comes from, beside its chain. */
function Origin({ run }: { run: RunSummary }) {
  return (
    <span className="small soft">
      {run.trigger != null && (
        <>
          ⤿ <TriggerLink name={run.trigger} />
        </>
      )}
      {run.parent && (
        <>
          {" "}
          of <ParentLink run={run.parent.run} />
        </>
      )}
    </span>
  );
}

const TriggerLink = ({ name }: { name: string }) => (
  <Link className="small soft" to="/triggers" search={{ name }}>
    {name}
  </Link>
);

const ParentLink = ({ run, step }: { run: number; step?: string }) => (
  <Link className="small soft" to="/runs/$id" params={{ id: String(run) }} search={{ step }}>
    run {run}
    {step !== undefined && `, ${step}`}
  </Link>
);
