/** The part of JSON Schema that forms are made from; `x-form` and `x-pick` are ours. */
export interface Schema {
  type?: string | string[];
  const?: unknown;
  description?: string;
  default?: unknown;
  enum?: unknown[];
  anyOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  required?: string[];
  "x-form"?: string;
  "x-pick"?: string;
  /** For a connection: the types it may be of. */
  "x-pick-types"?: string[];
}

/** What kind of field a value gets. */
export type Form =
  | "text"
  | "bool"
  | "number"
  | "duration"
  | "choice"
  | "text-or-file"
  | "expression"
  | "texts"
  | "list"
  | "map"
  | "record"
  | "any"
  | "choice-or-number"
  | "attachment"
  | "row-expression";

export function formOf(schema: Schema): Form {
  const form = schema["x-form"];
  if (form === "int" || form === "double") return "number";
  if (form === "timestamp") return "text";
  if (form !== undefined) return form as Form;
  if (schema.type === "array")
    return schema.items && ["text", "attachment"].includes(formOf(schema.items)) ? "texts" : "list";
  if (schema.type === "object") return schema.properties ? "record" : "map";
  return "any";
}

export const choicesOf = (schema: Schema): string[] =>
  (schema.enum ?? schema.anyOf?.find((s) => s.enum)?.enum ?? []).map(String);

/** `rowsRead` and `rows_read` as people read them. */
export function spoken(name: string): string {
  const words = name
    .replace(/_/g, " ")
    .replace(/([a-z])([A-Z])/g, "$1 $2")
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
