import { keepJson, readJson } from "../browserStore";
import type { ParameterInfo } from "../api/types";
import type { Design } from "../document/design";
import { child, plain } from "../document/tree";
import { textOf, type Given } from "../values/typed";
import { isDuration } from "./sentences";

/** The parameters of a draft, as its file has them. */
export function parametersOf(design: Design): ParameterInfo[] {
  const params = (plain(child(design.file.root, "params")) ?? {}) as Record<
    string,
    { type?: string; label?: string; default?: unknown; secret?: unknown } | null
  >;
  return Object.entries(params).map(([name, p]) => ({
    name,
    type: p?.type ?? "any",
    label: p?.label ?? null,
    required: p?.default === undefined,
    default: p?.default ?? null,
    secret: p?.secret === true,
  }));
}

/** The defaults of parameters as they are typed; those without are not given. */
export const defaultsOf = (parameters: readonly ParameterInfo[]): Given => givenOf(parameters, (p) => p.default);

/** The same for a rehearsal, where a day that nobody has chosen is today. */
export const defaultsToday = (parameters: readonly ParameterInfo[]): Given =>
  givenOf(parameters, (p) => p.default ?? (p.type === "timestamp" ? new Date().toISOString().slice(0, 10) : null));

/** Values of parameters as they are typed. */
export function givenOf(parameters: readonly ParameterInfo[], valueOf: (parameter: ParameterInfo) => unknown): Given {
  const given: Record<string, string> = {};
  for (const parameter of parameters) {
    const text = textOf(parameter.type, valueOf(parameter));
    if (text !== undefined) given[parameter.name] = text;
  }
  return given;
}

/** A value as one of another type where it can be one, or else the emptiest value of that type. */
export function convert(value: unknown, type: string): unknown {
  const text = typeof value === "object" ? "" : String(value as string | number | boolean);
  switch (type) {
    case "string":
      return text;
    case "int":
      return /^-?\d+$/.test(text) ? Number(text) : 0;
    case "double":
    case "decimal":
      return text !== "" && Number.isFinite(Number(text)) ? Number(text) : 0;
    case "bool":
      return text === "true";
    case "duration":
      return isDuration(text) ? text : "0s";
    case "timestamp":
      return /^\d{4}-\d\d-\d\d/.test(text) ? text : "2026-01-01T00:00:00Z";
    case "map":
      return typeof value === "object" && value !== null && !Array.isArray(value) ? value : {};
    default:
      return type.startsWith("list") ? (Array.isArray(value) ? value : []) : value;
  }
}

const shelf = (chain: string) => `gatechain.params.${chain}`;

/** The values that somebody used last for a chain. */
export const lastValues = (chain: string): Given => (readJson(shelf(chain)) ?? {}) as Given;

export const keepValues = (chain: string, values: Given) => keepJson(shelf(chain), values);
