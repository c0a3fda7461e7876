import type { ReactNode } from "react";

/** A column of a table. */
export interface Column<Row> {
  /** What stands above it; a title that only screen readers say is `{ spoken: … }`. */
  title: ReactNode | { spoken: string };
  cell: (row: Row) => ReactNode;
  /** Numbers and times stand at the right. */
  numeric?: boolean;
  className?: string;
  /** Shown when the pointer rests on a cell: for text that is cut off. */
  hint?: (row: Row) => string | undefined;
}

const isSpoken = (title: Column<never>["title"]): title is { spoken: string } =>
  typeof title === "object" && title !== null && "spoken" in title;

const classOf = (column: { numeric?: boolean; className?: string }) =>
  [column.numeric === true ? "num" : "", column.className ?? ""].filter((c) => c !== "").join(" ") || undefined;

/** Rows with columns, on a sheet; the page says what stands there while there are none. */
export function DataTable<Row>({
  columns,
  rows,
  keyOf,
  attributes,
  className,
}: {
  columns: readonly Column<Row>[];
  rows: readonly Row[];
  keyOf: (row: Row) => string | number;
  /** More attributes of a row, `data-…` for one. */
  attributes?: (row: Row) => Record<string, string>;
  className?: string;
}) {
  return (
    <div className="sheet">
      <table className={className === undefined ? "dense" : `dense ${className}`}>
        <thead>
          <tr>
            {columns.map((column, i) => (
              <th key={i} className={column.numeric === true ? "num" : undefined}>
                {isSpoken(column.title) ? <span className="visuallyhidden">{column.title.spoken}</span> : column.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={keyOf(row)} {...attributes?.(row)}>
              {columns.map((column, i) => (
                <td key={i} className={classOf(column)} title={column.hint?.(row)}>
                  {column.cell(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
