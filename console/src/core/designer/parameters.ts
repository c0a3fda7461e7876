import type { ParameterInfo } from "../api/types";
import type { Design } from "../document/design";
import { child, plain } from "../document/tree";

/** The parameters of a draft, as its file has them. */
export function parametersOf(design: Design): ParameterInfo[] {
  const params = (plain(child(design.file.root, "params")) ?? {}) as Record<
    string,
    { type?: string; label?: string; default?: unknown } | null
  >;
  return Object.entries(params).map(([name, p]) => ({
    name,
    type: p?.type ?? "any",
    label: p?.label ?? null,
    required: p?.default === undefined,
    default: p?.default ?? null,
  }));
}

const shelf = (chain: string) => `gatechain.params.${chain}`;

/** The values that somebody used last for a chain. */
export function lastValues(chain: string): Record<string, string> {
  try {
    return JSON.parse(localStorage.getItem(shelf(chain)) ?? "{}") as Record<string, string>;
  } catch {
    return {};
  }
}

export function keepValues(chain: string, values: Record<string, string>) {
  try {
    localStorage.setItem(shelf(chain), JSON.stringify(values));
  } catch {
    // They are asked for again.
  }
}
