import type { HistoryInfo } from "../../core/api/types";
import { took } from "../../core/format";
import { median } from "../../core/history/statistics";

const parts = [
  { key: "work", word: "working" },
  { key: "held", word: "held by its guard" },
  { key: "queued", word: "waiting for its lane" },
  { key: "rested", word: "between attempts" },
] as const;

/** How many steps are told: those that take the most. */
const most = 10;

/** Where the time goes: the steps that take the most, with what they spend it on; medians of the runs. */
export function TimeShares({ history, titles }: { history: HistoryInfo; titles: ReadonlyMap<string, string> }) {
  const rows = history.addresses
    // What holds others takes the time that they take.
    .filter((address) => !history.addresses.some((other) => other.startsWith(`${address}/`)))
    .map((address) => {
      const own = history.legs.flatMap((leg) => {
        const step = leg.steps[address];
        return step && step.count > 0 ? [step] : [];
      });
      const times = parts.map(({ key }) => median(own.map((step) => Number(step[key]))) ?? 0);
      return { address, times, total: times.reduce((a, b) => a + b, 0) };
    })
    .filter((row) => row.total > 0)
    .toSorted((a, b) => b.total - a.total)
    .slice(0, most);
  const longest = Math.max(1, ...rows.map((row) => row.total));
  return (
    <div className="sheet shares">
      <table className="dense">
        <tbody>
          {rows.map(({ address, times, total }) => (
            <tr key={address}>
              <th scope="row">{titles.get(address) ?? address}</th>
              <td className="num">{took(total)}</td>
              <td>
                <span className="sharebar" style={{ width: `${String((total / longest) * 100)}%` }}>
                  {times.map((time, i) =>
                    time === 0 ? null : (
                      <span
                        key={parts[i]?.key}
                        data-part={parts[i]?.key}
                        style={{ flexGrow: time }}
                        title={`${parts[i]?.word ?? ""}: ${took(time)}`}
                      />
                    ),
                  )}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft small keyline">
        {parts.map(({ key, word }) => (
          <span key={key}>
            <span className="swatch" data-part={key} /> {word}
          </span>
        ))}
      </p>
    </div>
  );
}
