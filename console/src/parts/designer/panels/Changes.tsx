import type { PartChangeInfo } from "../../../core/api/types";

const signs: Record<string, string> = { added: "+", removed: "−", changed: "≠", renamed: "↦" };

/** What two versions say differently: parts, and settings one by one. */
export function Changes({ changes, choose }: { changes: PartChangeInfo[]; choose?: (change: PartChangeInfo) => void }) {
  if (changes.length === 0) return <p className="soft small">Both say the same.</p>;
  return (
    <ul className="changes" aria-label="Differences">
      {changes.map((c, i) => (
        <li key={i} data-change={c.change}>
          <div>
            <span className="sign" aria-hidden>
              {signs[c.change]}
            </span>{" "}
            {c.change} {c.part}{" "}
            {choose && c.change !== "removed" && c.part === "step" ? (
              <button type="button" className="plain" onClick={() => choose(c)}>
                {c.address}
              </button>
            ) : (
              <code>{c.address}</code>
            )}
            {c.was != null && <span className="soft"> (was {c.was})</span>}
          </div>
          {c.change === "changed" && (
            <table className="values">
              <tbody>
                {c.settings.map((s) => (
                  <tr key={s.setting}>
                    <td>{s.setting}</td>
                    <td>
                      <del>{s.before ?? "nothing"}</del> → <ins>{s.after ?? "nothing"}</ins>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </li>
      ))}
    </ul>
  );
}
