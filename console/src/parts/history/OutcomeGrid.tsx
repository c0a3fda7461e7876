import { Link } from "@tanstack/react-router";
import type { HistoryInfo, LegInfo } from "../../core/api/types";
import { clock, releaseName, took } from "../../core/format";
import { lengthOf } from "../../core/history/legs";
import { asState, marks } from "../../core/states";

/** Steps by runs: how each ended, the newest run at the right. A cell leads to the step of that run. */
export function OutcomeGrid({
  history,
  titles,
  chosen,
  choose,
}: {
  history: HistoryInfo;
  titles: ReadonlyMap<string, string>;
  chosen: string | undefined;
  choose: (address: string | undefined) => void;
}) {
  const legs = history.legs.toReversed();
  const longest = Math.max(1, ...legs.map(lengthOf));
  return (
    <div className="sheet outcomes" tabIndex={0} role="region" aria-label="Steps by runs">
      <table>
        <thead>
          <tr>
            <th scope="col">step</th>
            {legs.map((leg) => (
              <th key={leg.run} scope="col">
                <Link
                  to="/runs/$id"
                  params={{ id: String(leg.run) }}
                  title={`Run ${String(leg.run)}, ${leg.state}, ${clock(leg.started)}, ${took(lengthOf(leg))}, ${releaseName(leg.number)}`}
                  aria-label={`Run ${String(leg.run)}, ${leg.state}`}
                >
                  <span
                    className="runbar"
                    style={{ height: `${String(4 + (lengthOf(leg) / longest) * 36)}px` }}
                    data-state={leg.state}
                  />
                </Link>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {history.addresses.map((address) => (
            <tr key={address} aria-current={address === chosen}>
              <th scope="row" style={{ paddingLeft: 12 + 14 * (address.split("/").length - 1) }}>
                <button type="button" className="stepname" onClick={() => choose(address)} title={address}>
                  {titles.get(address) ?? address}
                </button>
              </th>
              {legs.map((leg) => (
                <Cell key={leg.run} leg={leg} address={address} name={titles.get(address) ?? address} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const isKept = (step: { count: number; state: string }) => step.count === 0 && step.state !== "skipped";

function Cell({ leg, address, name }: { leg: LegInfo; address: string; name: string }) {
  const step = leg.steps[address];
  if (!step) return <td />;
  const many = step.count > 1 ? `, ${String(step.count - step.failed)} of ${String(step.count)} succeeded` : "";
  const words = [
    `Run ${String(leg.run)}: ${name} ${step.state}${many}`,
    step.count > 0 ? took(Number(step.span)) : isKept(step) ? "kept from an earlier leg" : "",
    step.attempts > step.count && step.count > 0 ? `${String(step.attempts)} attempts` : "",
    step.rejected != null ? `${Number(step.rejected).toLocaleString("en")} rows rejected` : "",
  ]
    .filter((w) => w !== "")
    .join(", ");
  return (
    <td>
      <Link
        to="/runs/$id"
        params={{ id: String(leg.run) }}
        search={{ step: address }}
        className="cell"
        data-state={step.state}
        data-kept={isKept(step)}
        title={words}
        aria-label={words}
      >
        {marks[asState(step.state)]}
      </Link>
    </td>
  );
}
