import { nameOfUse } from "../../core/chainLists";
import { useQuery } from "@tanstack/react-query";
import { brokenUsesQuery } from "../../queries/chains";

/** What a version of a chain would break where it is used; nothing while it breaks nothing. */
export function BrokenUses({ chain, source, action }: { chain: string; source: string; action: string }) {
  const { data } = useQuery(brokenUsesQuery(chain, source));
  if (!data || data.length === 0) return null;
  return (
    <div className="notice bad" role="alert">
      <div>
        {action} breaks {data.length === 1 ? "a place" : `${String(data.length)} places`} where this chain is used:
        <ul className="small">
          {data.map((use, i) => (
            <li key={i}>
              <b>{nameOfUse(use)}</b>: {use.breaks.join("; ")}
            </li>
          ))}
        </ul>
      </div>
    </div>
  );
}
