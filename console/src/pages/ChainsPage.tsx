import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { listChains } from "../core/api/client";
import { between, clock } from "../core/format";
import { asState, marks } from "../core/states";
import { ImportFolder } from "../parts/ImportFolder";
import { NewChainDialog } from "../parts/NewChainDialog";
import { StateMark } from "../parts/StateMark";

/** All chains with how they fared lately. */
export function ChainsPage() {
  const { data, error } = useQuery({ queryKey: ["chains"], queryFn: listChains });
  const [creating, setCreating] = useState<string | null>(null);
  const [search, setSearch] = useState("");
  return (
    <div className="page">
      <div className="headline">
        <h1>Chains</h1>
        {data && <span className="soft small">{data.length === 1 ? "1 chain" : `${String(data.length)} chains`}</span>}
        <div className="rest">
          {data && data.length > 5 && (
            <TextInput
              size="xs"
              aria-label="Search chains"
              placeholder="Search"
              value={search}
              onChange={(e) => setSearch(e.currentTarget.value)}
            />
          )}
          <ImportFolder />
          <Button size="xs" variant="default" component="a" href="/api/workspace/zip" download>
            Export
          </Button>
          <Button size="xs" onClick={() => setCreating("")}>
            New chain…
          </Button>
        </div>
      </div>
      {creating !== null && <NewChainDialog like={creating} chains={data ?? []} close={() => setCreating(null)} />}
      {error && <div className="errorbox">{error.message}</div>}
      {data?.length === 0 && (
        <div className="sheet empty">
          <p>There are no chains yet.</p>
          <p>
            <Button size="xs" onClick={() => setCreating("")}>
              Design the first one
            </Button>
          </p>
          <p>
            or bring a workspace here with <code>gatechain push FOLDER</code>
          </p>
        </div>
      )}
      {data && data.length > 0 && (
        <div className="sheet">
          <table className="dense">
            <thead>
              <tr>
                <th>Chain</th>
                <th className="num">Steps</th>
                <th>Release</th>
                <th>Latest runs, newest left</th>
                <th>Last</th>
                <th>When</th>
                <th className="num">Took</th>
                <th>
                  <span className="visuallyhidden">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data
                .filter((c) => `${c.area}/${c.name} ${c.title ?? ""}`.toLowerCase().includes(search.toLowerCase()))
                .map((chain) => {
                  const last = chain.lastRuns[0];
                  return (
                    <tr key={chain.name}>
                      <td>
                        <Link
                          to={chain.release == null ? "/chains/$name/design" : "/chains/$name"}
                          params={{ name: chain.name }}
                        >
                          <b>{chain.title ?? chain.name}</b>
                        </Link>
                        <div className="soft mono">
                          {chain.area !== "" && `${chain.area}/ `}
                          {chain.name}
                        </div>
                      </td>
                      <td className="num">{chain.steps}</td>
                      <td>
                        {chain.number != null ? chain.number : <span className="soft">none</span>}
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
                      </td>
                      <td>
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
                      </td>
                      <td>{last ? <StateMark state={last.state} /> : <span className="soft">never ran</span>}</td>
                      <td className="soft">{clock(last?.started)}</td>
                      <td className="num soft">{last?.ended ? between(last.started, last.ended, 0) : ""}</td>
                      <td className="num">
                        <Button
                          size="compact-xs"
                          variant="subtle"
                          aria-label={`Duplicate ${chain.name}`}
                          title="A new chain that begins as this one"
                          onClick={() => setCreating(chain.name)}
                        >
                          Duplicate
                        </Button>
                      </td>
                    </tr>
                  );
                })}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}
