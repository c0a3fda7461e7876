import { Allowed } from "../parts/access/Allowed";
import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { lazy, Suspense, useState } from "react";
import type { ChainSummary } from "../core/api/types";
import { between, clock } from "../core/format";
import { foldersOf, lastState, type ChainOrder } from "../core/chainLists";
import { asState, marks } from "../core/states";
import { StarButton } from "../parts/chains/StarButton";
import { Welcome } from "../parts/chains/Welcome";
import { useRemembered } from "../parts/page/useRemembered";
import { ImportFolder } from "../parts/chains/ImportFolder";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { StateMark } from "../parts/run/StateMark";
import { DataTable, type Column } from "../parts/table/DataTable";
import { chainsQuery } from "../queries/chains";

// What writes chain files is not needed to look at a list.
const NewChainDialog = lazy(async () => ({
  default: (await import("../parts/chains/NewChainDialog")).NewChainDialog,
}));

/** All chains by their folders, each with its latest runs; starred ones first. */
export function ChainsPage() {
  const { data, error } = useQuery(chainsQuery);
  const [creating, setCreating] = useState<string | null>(null);
  const [search, setSearch] = useState("");
  const [state, setState] = useState("");
  const [order, setOrder] = useRemembered<ChainOrder>("chains order", "name");
  const [starred, setStarred] = useRemembered<readonly string[]>("starred chains", []);
  const columns = columnsOf(
    starred,
    (chain) => setStarred(starred.includes(chain) ? starred.filter((n) => n !== chain) : [...starred, chain]),
    setCreating,
  );
  const [withRetired, setWithRetired] = useState(false);
  const wanted = search.toLowerCase();
  const retired = (data ?? []).filter((c) => c.retired).length;
  const used = (data?.length ?? 0) - retired;
  return (
    <Page
      title="Chains"
      error={error}
      facts={data && <span className="soft small">{used === 1 ? "1 chain" : `${String(used)} chains`}</span>}
      actions={
        <>
          {data && data.length > 5 && (
            <TextInput
              size="xs"
              aria-label="Search chains"
              placeholder="Search"
              value={search}
              onChange={(e) => setSearch(e.currentTarget.value)}
            />
          )}
          {data && data.length > 5 && (
            <>
              <NativeSelect
                size="xs"
                aria-label="Latest run"
                value={state}
                onChange={(e) => setState(e.currentTarget.value)}
                data={[
                  { value: "", label: "any state" },
                  ...["failed", "running", "paused", "succeeded", "never ran"].map((s) => ({ value: s, label: s })),
                ]}
              />
              <NativeSelect
                size="xs"
                aria-label="Order"
                value={order}
                onChange={(e) => setOrder(e.currentTarget.value as ChainOrder)}
                data={[
                  { value: "name", label: "by name" },
                  { value: "latest", label: "latest run first" },
                ]}
              />
            </>
          )}
          {retired > 0 && (
            <Checkbox
              size="xs"
              label={`Retired (${String(retired)})`}
              checked={withRetired}
              onChange={(e) => setWithRetired(e.currentTarget.checked)}
            />
          )}
          <Allowed permission="design">
            <ImportFolder />
          </Allowed>
          <Button size="xs" variant="default" component="a" href="/api/workspace/zip" download>
            Export
          </Button>
          <Allowed permission="design">
            <Button size="xs" onClick={() => setCreating("")}>
              New chain…
            </Button>
          </Allowed>
        </>
      }
    >
      <Welcome />
      {creating !== null && (
        <Suspense>
          <NewChainDialog like={creating} chains={data ?? []} close={() => setCreating(null)} />
        </Suspense>
      )}
      {data?.length === 0 && (
        <EmptyState>
          <p>There are no chains yet.</p>
          <p>
            <Button size="xs" onClick={() => setCreating("")}>
              Design the first one
            </Button>
          </p>
          <p>
            or bring a workspace here with <code>gatechain push FOLDER</code>
          </p>
        </EmptyState>
      )}
      {data &&
        data.length > 0 &&
        foldersOf(
          data
            .filter((c) => withRetired || !c.retired)
            .filter((c) => state === "" || lastState(c) === state)
            .filter((c) => `${c.area}/${c.name} ${c.title ?? ""}`.toLowerCase().includes(wanted)),
          starred,
          order,
        ).map(({ folder, chains }) => (
          <section key={folder} aria-label={folder === "" ? "Chains" : folder}>
            {folder !== "" && <h2 className="second">{folder}</h2>}
            <DataTable columns={columns} rows={chains} keyOf={(chain) => chain.name} />
          </section>
        ))}
    </Page>
  );
}

const columnsOf = (
  starred: readonly string[],
  star: (name: string) => void,
  duplicate: (name: string) => void,
): Column<ChainSummary>[] => [
  {
    title: "Chain",
    cell: (chain) => (
      <>
        <StarButton chain={chain.name} isStarred={starred.includes(chain.name)} press={() => star(chain.name)} />
        <Link to={chain.release == null ? "/chains/$name/design" : "/chains/$name"} params={{ name: chain.name }}>
          <b>{chain.title ?? chain.name}</b>
        </Link>
        <div className="soft mono">{chain.name}</div>
      </>
    ),
  },
  { title: "Steps", numeric: true, cell: (chain) => chain.steps },
  {
    title: "Release",
    cell: (chain) => (
      <>
        {chain.number != null ? chain.number : <span className="soft">none</span>}
        {chain.retired && (
          <span className="soft" title={`Retired by ${chain.retired.by}, ${clock(chain.retired.at)}`}>
            {" "}
            · retired
          </span>
        )}
        {chain.draft && (
          <>
            {" "}
            ·{" "}
            <Link
              to="/chains/$name/design"
              params={{ name: chain.name }}
              title={`Changed by ${chain.draft.author}, ${clock(chain.draft.saved)}`}
            >
              draft
            </Link>
          </>
        )}
      </>
    ),
  },
  {
    title: "Latest runs, newest left",
    cell: (chain) => (
      <span className="strip">
        {chain.lastRuns.map((run) => (
          <Link
            key={run.id}
            to="/runs/$id"
            params={{ id: String(run.id) }}
            data-state={run.state}
            aria-label={`run ${String(run.id)} ${run.state}`}
            title={`run ${String(run.id)} ${run.state}`}
          >
            {marks[asState(run.state)]}
          </Link>
        ))}
      </span>
    ),
  },
  {
    title: "Last",
    cell: ({ lastRuns: [last] }) => (last ? <StateMark state={last.state} /> : <span className="soft">never ran</span>),
  },
  { title: "When", className: "soft", cell: ({ lastRuns: [last] }) => clock(last?.started) },
  {
    title: "Took",
    numeric: true,
    className: "soft",
    cell: ({ lastRuns: [last] }) => (last?.ended ? between(last.started, last.ended, 0) : ""),
  },
  {
    title: { spoken: "Actions" },
    numeric: true,
    cell: (chain) => (
      <Button
        size="compact-xs"
        variant="subtle"
        aria-label={`Duplicate ${chain.name}`}
        title="A new chain that begins as this one"
        onClick={() => duplicate(chain.name)}
      >
        Duplicate
      </Button>
    ),
  },
];
