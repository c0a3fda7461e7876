import { brief } from "../../core/format";
import { dataRowsOf, type DataRows } from "../../core/values/dataRows";

/** How many rows and columns are shown; whoever wants all of them asks the API. */
const most = { rows: 100, columns: 30 };

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
  const rows = entries.flatMap(([name, item]) => {
    const data = dataRowsOf(item);
    return data ? [{ name, data }] : [];
  });
  return (
    <>
      <table className="values">
        <tbody>
          {entries
            .filter(([name]) => !rows.some((r) => r.name === name))
            .map(([name, item]) => (
              <tr key={name}>
                <td>{name}</td>
                <td>
                  <code>{shown(item)}</code>
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      {rows.map(({ name, data }) => (
        <Rows key={name} name={name} data={data} />
      ))}
    </>
  );
}

function Rows({ name, data }: { name: string; data: DataRows }) {
  const columns = data.columns.slice(0, most.columns);
  const count = data.rows.length;
  return (
    <figure className="datarows">
      <figcaption>
        {name}{" "}
        <span className="soft small">
          {count === 1 ? "1 row" : `${count.toLocaleString("en")} rows`}
          {count > most.rows && `, the first ${String(most.rows)}`}
          {data.columns.length > columns.length &&
            `, ${String(columns.length)} of ${String(data.columns.length)} columns`}
        </span>
      </figcaption>
      <div className="scrolled" tabIndex={0} role="region" aria-label={`Rows of ${name}`}>
        <table>
          <thead>
            <tr>
              {columns.map((c) => (
                <th key={c.name}>
                  {c.name} <span className="soft">{c.type}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {data.rows.slice(0, most.rows).map((row, i) => (
              <tr key={i}>
                {columns.map((c) => (
                  <td key={c.name} className={c.type === "int" || c.type === "double" ? "num" : undefined}>
                    {row[c.name] === undefined ? (
                      ""
                    ) : row[c.name] === null ? (
                      <i className="soft">null</i>
                    ) : (
                      brief(row[c.name], 200)
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </figure>
  );
}
