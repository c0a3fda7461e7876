import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useNow } from "../app/useNow";
import { listChains, listRuns, listTriggers } from "../core/api/client";
import { between, clock, parametersLine } from "../core/format";
import { dayBegins } from "../core/triggers/words";
import { StateMark } from "../parts/StateMark";

const pageSize = 50;

/** All runs, newest first; filters by chain and state; live. */
export function RunsPage() {
  const search = useSearch({ from: "/runs" });
  const { chain, state, trigger, from, to, text } = search;
  const navigate = useNavigate();
  const chains = useQuery({ queryKey: ["chains"], queryFn: listChains });
  const runs = useInfiniteQuery({
    queryKey: ["runs", chain, state, trigger, from, to, text],
    queryFn: ({ pageParam }) =>
      listRuns({
        chain,
        state,
        trigger,
        text,
        from: from && dayBegins(from, null),
        to: to && dayBegins(to, null, 1),
        before: pageParam,
        limit: pageSize,
      }),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.length === pageSize ? last.at(-1)?.id : undefined),
  });
  const rows = runs.data?.pages.flat() ?? [];
  const now = useNow(
    rows.some((run) => run.ended == null),
    1000,
  );
  const triggers = useQuery({ queryKey: ["triggers"], queryFn: () => listTriggers() });
  const filter = (next: typeof search) => void navigate({ to: "/runs", search: { ...search, ...next }, replace: true });
  return (
    <div className="page">
      <div className="headline">
        <h1>Runs</h1>
        <div className="rest">
          <NativeSelect
            size="xs"
            aria-label="Chain"
            value={chain ?? ""}
            onChange={(e) => filter({ chain: e.currentTarget.value || undefined })}
            data={[
              { value: "", label: "all chains" },
              ...(chains.data ?? []).map((c) => ({ value: c.name, label: c.title ?? c.name })),
            ]}
          />
          <NativeSelect
            size="xs"
            aria-label="State"
            value={state ?? ""}
            onChange={(e) => filter({ state: e.currentTarget.value || undefined })}
            data={[{ value: "", label: "all states" }, "queued", "running", "paused", "succeeded", "failed", "stopped"]}
          />
          <NativeSelect
            size="xs"
            aria-label="Trigger"
            value={trigger ?? ""}
            onChange={(e) => filter({ trigger: e.currentTarget.value || undefined })}
            data={[{ value: "", label: "however started" }, ...(triggers.data ?? []).map((t) => t.name)]}
          />
          <TextInput
            size="xs"
            type="date"
            aria-label="From"
            title="Only runs that began on this day or later"
            value={from ?? ""}
            onChange={(e) => filter({ from: e.currentTarget.value || undefined })}
          />
          <TextInput
            size="xs"
            type="date"
            aria-label="To"
            title="Only runs that began on this day or before"
            value={to ?? ""}
            onChange={(e) => filter({ to: e.currentTarget.value || undefined })}
          />
          <TextInput
            size="xs"
            aria-label="Parameters"
            placeholder="in the parameters"
            defaultValue={text ?? ""}
            onChange={(e) => filter({ text: e.currentTarget.value || undefined })}
          />
        </div>
      </div>
      {runs.error && <div className="errorbox">{runs.error.message}</div>}
      {runs.data && rows.length === 0 && (
        <div className="sheet empty">
          {(chain ?? state ?? trigger ?? from ?? to ?? text) ? (
            "No run matches."
          ) : (
            <>
              There are no runs yet. Start one on a chain’s page, or with <code>gatechain run CHAIN</code>
            </>
          )}
        </div>
      )}
      {rows.length > 0 && (
        <div className="sheet">
          <table className="dense">
            <thead>
              <tr>
                <th className="num">Run</th>
                <th>Chain</th>
                <th>State</th>
                <th className="num">Leg</th>
                <th>Started</th>
                <th className="num">Took</th>
                <th>Parameters, or why it failed</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((run) => (
                <tr key={run.id}>
                  <td className="num">
                    <Link to="/runs/$id" params={{ id: String(run.id) }}>
                      {run.id}
                    </Link>
                  </td>
                  <td>
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
                  </td>
                  <td>
                    <StateMark state={run.state} /> {run.late && <span className="late">⧗ late</span>}
                  </td>
                  <td className="num">{run.leg}</td>
                  <td className="soft">{clock(run.started, now)}</td>
                  <td className="num">{between(run.started, run.ended, now)}</td>
                  <td className="why" title={run.error ?? undefined}>
                    {run.resumeAt != null && `◔ resumes by itself at ${clock(run.resumeAt, now)}; `}
                    {run.error ?? parametersLine(run.params)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {runs.hasNextPage && (
        <Button mt="md" variant="default" onClick={() => void runs.fetchNextPage()} loading={runs.isFetchingNextPage}>
          Older runs
        </Button>
      )}
    </div>
  );
}
