/** Rows of data with their columns, as a step gives them. */
export interface DataRows {
  columns: { name: string; type: string }[];
  rows: readonly Readonly<Record<string, unknown>>[];
}

/** A list of maps as rows; null for every other value. */
export function dataRowsOf(value: unknown): DataRows | null {
  if (!Array.isArray(value) || value.length === 0 || !value.every(isMap)) return null;
  const names = [...new Set(value.flatMap((row) => Object.keys(row)))];
  return { columns: names.map((name) => ({ name, type: typeOf(value.map((row) => row[name])) })), rows: value };
}

const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** The type that all values share, those that are absent aside; several types are `any`. */
function typeOf(values: readonly unknown[]): string {
  const types = new Set(values.filter((v) => v !== null && v !== undefined).map(oneType));
  if (types.size === 2 && types.has("int") && types.has("double")) return "double";
  return types.size === 1 ? ([...types][0] ?? "any") : types.size === 0 ? "null" : "any";
}

const time = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:\d{2})$/;

const oneType = (value: unknown): string =>
  typeof value === "number"
    ? Number.isInteger(value)
      ? "int"
      : "double"
    : typeof value === "boolean"
      ? "bool"
      : typeof value === "string"
        ? time.test(value)
          ? "timestamp"
          : "string"
        : Array.isArray(value)
          ? "list"
          : "map";
