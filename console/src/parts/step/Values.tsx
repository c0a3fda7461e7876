import { brief } from "../../core/format";

// Short lists and maps stand on one line.
function shown(item: unknown): string {
  const line = brief(item, 1000);
  return item !== null && typeof item === "object" && line.length > 60
    ? JSON.stringify(item, null, 1).slice(0, 2000)
    : line;
}

/** A map of values as a small table; rows of data as a table of their own. */
export function Values({ value, empty }: { value: unknown; empty: string }) {
  const entries = value !== null && typeof value === "object" && !Array.isArray(value) ? Object.entries(value) : [];
  if (entries.length === 0) return <p className="soft">{empty}</p>;
  return (
    <table className="values">
      <tbody>
        {entries.map(([name, item]) => (
          <tr key={name}>
            <td>{name}</td>
            <td>
              <code>{shown(item)}</code>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
