import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { listChains } from "../core/api/client";
import { between, clock } from "../core/format";
import { asState, marks } from "../core/states";
import { StateMark } from "../parts/StateMark";

/** All chains with how they fared lately. */
export function ChainsPage() {
  const { data, error } = useQuery({ queryKey: ["chains"], queryFn: listChains });
  return (
    <div className="page">
      <div className="headline">
        <h1>Chains</h1>
        {data && <span className="soft small">{data.length === 1 ? "1 chain" : `${String(data.length)} chains`}</span>}
      </div>
      {error && <div className="errorbox">{error.message}</div>}
      {data?.length === 0 && (
        <div className="sheet empty">
          <p>There are no chains yet.</p>
          <p>
            Bring a workspace here with <code>gatechain push FOLDER</code>
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
                <th>Latest runs, newest left</th>
                <th>Last</th>
                <th>When</th>
                <th className="num">Took</th>
              </tr>
            </thead>
            <tbody>
              {data.map((chain) => {
                const last = chain.lastRuns[0];
                return (
                  <tr key={chain.name}>
                    <td>
                      <Link to="/chains/$name" params={{ name: chain.name }}>
                        <b>{chain.title ?? chain.name}</b>
                      </Link>
                      <div className="soft mono">{chain.name}</div>
                    </td>
                    <td className="num">{chain.steps}</td>
                    <td>
                      <span className="strip">
                        {chain.lastRuns.map((run) => (
                          <Link key={run.id} to="/runs/$id" params={{ id: String(run.id) }} data-state={run.state} aria-label={`run ${String(run.id)} ${run.state}`} title={`run ${String(run.id)} ${run.state}`}>
                            {marks[asState(run.state)]}
                          </Link>
                        ))}
                      </span>
                    </td>
                    <td>{last ? <StateMark state={last.state} /> : <span className="soft">never ran</span>}</td>
                    <td className="soft">{clock(last?.started)}</td>
                    <td className="num soft">{last?.ended ? between(last.started, last.ended, 0) : ""}</td>
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
