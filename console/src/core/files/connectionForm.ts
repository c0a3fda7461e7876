/** A type of connection as the service tells it. */
export interface ConnectionType {
  name: string;
  doc: string;
  schema: unknown;
}

/** One setting of a connection. */
export interface ConnectionField {
  name: string;
  doc: string;
  /** The CEL type that what is typed is read as. */
  type: "string" | "int" | "bool" | "duration" | "map" | "any";
  required: boolean;
  /** The words there are; empty for any. */
  choices: string[];
  /** What holds when it is left out, as text. */
  standard: string;
}

interface Shape {
  type?: unknown;
  enum?: unknown[];
  anyOf?: Shape[];
  properties?: Record<string, Shape>;
  required?: string[];
  description?: string;
  default?: unknown;
  "x-form"?: string;
}

/** The settings of a type, those first that it needs. */
export function fieldsOf(type: ConnectionType): ConnectionField[] {
  const { properties = {}, required = [] } = type.schema as Shape;
  return Object.entries(properties)
    .map(([name, shape]) => ({
      name,
      doc: (shape.description ?? "").replaceAll("`", ""),
      type: typeOf(shape),
      required: required.includes(name),
      choices: choicesOf(shape),
      standard: shape.default === undefined || shape.default === null ? "" : String(shape.default as string),
    }))
    .sort((a, b) => Number(b.required) - Number(a.required));
}

function typeOf(shape: Shape): ConnectionField["type"] {
  switch (shape["x-form"]) {
    case "text":
    case "choice":
      return "string";
    case "int":
    case "bool":
    case "duration":
      return shape["x-form"];
    default:
      return shape.type === "object" ? "map" : "any";
  }
}

const choicesOf = (shape: Shape): string[] =>
  (shape.enum ?? shape.anyOf?.find((s) => s.enum !== undefined)?.enum ?? []).map(String);

/** What an entry says of a field, as it is typed; nothing when it says nothing. */
export function textOf(value: unknown): string | undefined {
  if (value === undefined || value === null) return undefined;
  return typeof value === "object" ? JSON.stringify(value) : String(value as string);
}

/** Where a file of the workspace lies that a folder has. */
export const fileOf = (area: string | null | undefined, name: string) =>
  area === null || area === undefined || area === "" ? name : `${area}/${name}`;
