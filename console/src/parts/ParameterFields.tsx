import { Checkbox, TextInput } from "@mantine/core";
import type { ParameterInfo } from "../core/api/types";

export type Given = Record<string, string>;

/** What a parameter's field holds at first: text, as one would type it. */
export function asText(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value) && value.every((v) => typeof v === "string")) return value.join(", ");
  if (typeof value === "string") return /T00:00:00Z$/.test(value) ? value.slice(0, 10) : value;
  return JSON.stringify(value);
}

/** A field for each parameter, after its type; the service reads the text. */
export function ParameterFields({ parameters, given, change }: { parameters: ParameterInfo[]; given: Given; change: (given: Given) => void }) {
  return (
    <>
      {parameters.map((p) =>
        p.type === "bool" ? (
          <Checkbox key={p.name} mt="sm" size="md" label={p.label ?? p.name} checked={given[p.name] === "true"} onChange={(e) => change({ ...given, [p.name]: String(e.currentTarget.checked) })} />
        ) : (
          <TextInput key={p.name} mt="sm" name={p.name} label={p.label ?? p.name} description={`${p.name}: ${p.type}${p.type === "timestamp" ? ", for example 2026-11-22" : ""}`} required={p.required}
            value={given[p.name] ?? ""} onChange={(e) => change({ ...given, [p.name]: e.currentTarget.value })} />
        ),
      )}
    </>
  );
}
