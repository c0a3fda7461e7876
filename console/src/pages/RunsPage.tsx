import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useNow } from "../app/useNow";
import type { RunSummary } from "../core/api/types";
import { between, clock, parametersLine } from "../core/format";
import type { RunSearch } from "../core/runs/runSearch";
import { dayBegins } from "../core/triggers/words";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { StateMark } from "../parts/run/StateMark";
import { DataTable, type Column } from "../parts/table/DataTable";
import { chainsQuery } from "../queries/chains";
import { runsQuery } from "../queries/runs";
import { triggersQuery } from "../queries/triggers";

const states = ["queued", "running", "paused", "succeeded", "failed", "stopped"];

/** All runs, newest first; the filters stand in the address; live. */
export function RunsPage() {
  const search = useSearch({ from: "/runs" });
  const { from, to, ...rest } = search;
  const runs = useInfiniteQuery(
    runsQuery({ ...rest, from: from && dayBegins(from, null), to: to && dayBegins(to, null, 1) }),
  );
  const rows = runs.data?.pages.flatMap((page) => page.runs) ?? [];
  const now = useNow(
    rows.some((run) => run.ended == null),
    1000,
  );
  return (
    <Page title="Runs" actions={<Filters search={search} />} error={runs.error}>
      {runs.data && rows.length === 0 && (
        <EmptyState>
          {Object.values(search).some((value) => value !== undefined) ? (
            "No run matches."
          ) : (
            <>
              There are no runs yet. Start one on a chain’s page, or with <code>gatechain run CHAIN</code>
            </>
          )}
        </EmptyState>
      )}
      {rows.length > 0 && <DataTable columns={columns(now)} rows={rows} keyOf={(run) => run.id} />}
      {runs.hasNextPage && (
        <Button mt="md" variant="default" onClick={() => void runs.fetchNextPage()} loading={runs.isFetchingNextPage}>
          Older runs
        </Button>
      )}
    </Page>
  );
}

function Filters({ search }: { search: RunSearch }) {
  const navigate = useNavigate();
  const { data: chains } = useQuery(chainsQuery);
  const { data: triggers } = useQuery(triggersQuery);
  const set = (name: keyof RunSearch) => (e: { currentTarget: { value: string } }) =>
    void navigate({
      to: "/runs",
      search: { ...search, [name]: e.currentTarget.value || undefined },
      replace: true,
    });
  const field = (name: keyof RunSearch, label: string) => ({
    size: "xs" as const,
    "aria-label": label,
    value: search[name] ?? "",
    onChange: set(name),
  });
  return (
    <>
      <NativeSelect
        {...field("chain", "Chain")}
        data={[
          { value: "", label: "all chains" },
          ...(chains ?? []).map((c) => ({ value: c.name, label: c.title ?? c.name })),
        ]}
      />
      <NativeSelect {...field("state", "State")} data={[{ value: "", label: "all states" }, ...states]} />
      <NativeSelect
        {...field("trigger", "Trigger")}
        data={[{ value: "", label: "however started" }, ...(triggers ?? []).map((t) => t.name)]}
      />
      <TextInput {...field("from", "From")} type="date" title="Only runs that started on this day or later" />
      <TextInput {...field("to", "To")} type="date" title="Only runs that started on this day or earlier" />
      {/* What is typed must not wait for the address to change. */}
      <TextInput
        {...field("text", "Parameters")}
        value={undefined}
        defaultValue={search.text ?? ""}
        placeholder="in the parameters"
      />
    </>
  );
}

const columns = (now: number): Column<RunSummary>[] => [
  {
    title: "Run",
    numeric: true,
    cell: (run) => (
      <Link to="/runs/$id" params={{ id: String(run.id) }}>
        {run.id}
      </Link>
    ),
  },
  { title: "Chain", cell: (run) => <ChainAndOrigin run={run} /> },
  {
    title: "State",
    cell: (run) => (
      <>
        <StateMark state={run.state} /> {run.late && <span className="late">⧗ late</span>}
      </>
    ),
  },
  { title: "Leg", numeric: true, cell: (run) => run.leg },
  { title: "Started", className: "soft", cell: (run) => clock(run.started, now) },
  { title: "Took", numeric: true, cell: (run) => between(run.started, run.ended, now) },
  {
    title: "Parameters, or why it failed",
    className: "why",
    hint: (run) => run.error ?? undefined,
    cell: (run) => (
      <>
        {run.resumeAt != null && `◔ resumes automatically at ${clock(run.resumeAt, now)}; `}
        {run.error ?? parametersLine(run.params)}
      </>
    ),
  },
];

function ChainAndOrigin({ run }: { run: RunSummary }) {
  return (
    <>
      {run.chain}{" "}
      {run.trigger && (
        <Link className="small soft" to="/triggers" search={{ name: run.trigger }}>
          ⤿ {run.trigger}
        </Link>
      )}
      {run.parent && (
        <Link className="small soft" to="/runs/$id" params={{ id: String(run.parent.run) }}>
          {" "}
          of run {run.parent.run}
        </Link>
      )}
    </>
  );
}
