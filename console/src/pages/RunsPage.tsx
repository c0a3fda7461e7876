import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useNow } from "../app/useNow";
import { parameterColumn, parametersOf, runColumns, usualColumns } from "../core/runs/runColumns";
import type { RunSearch } from "../core/runs/runSearch";
import { dayBegins } from "../core/triggers/words";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { useRemembered } from "../parts/page/useRemembered";
import { columnsOf } from "../parts/run/runColumns";
import { ColumnChoice } from "../parts/table/ColumnChoice";
import { DataTable } from "../parts/table/DataTable";
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
  const [chosen, setChosen] = useRemembered<string[]>("runs columns", [...usualColumns]);
  const parameters = parametersOf(rows).map((name) => ({ name: parameterColumn(name), title: name }));
  const columns = (
    <ColumnChoice
      groups={[
        { label: "Of the run", columns: runColumns },
        { label: "Its parameters", columns: parameters },
      ]}
      chosen={chosen}
      choose={setChosen}
      usual={usualColumns}
    />
  );
  return (
    <Page
      title="Runs"
      actions={
        <>
          <Filters search={search} />
          {columns}
        </>
      }
      error={runs.error}
    >
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
      {rows.length > 0 && (
        <DataTable columns={columnsOf(chosen, now)} rows={rows} keyOf={(run) => run.id} className="lines" />
      )}
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
        miw={148}
        data={[{ value: "", label: "however started" }, ...(triggers ?? []).map((t) => t.name)]}
      />
      <TextInput {...field("from", "From")} w={128} type="date" title="Only runs that started on this day or later" />
      <TextInput {...field("to", "To")} w={128} type="date" title="Only runs that started on this day or earlier" />
      {/* What is typed must not wait for the address to change. */}
      <TextInput
        {...field("text", "Parameters")}
        w={150}
        value={undefined}
        defaultValue={search.text ?? ""}
        placeholder="in the parameters"
      />
    </>
  );
}
