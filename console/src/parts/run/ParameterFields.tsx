import { Checkbox, TextInput } from "@mantine/core";
import type { ParameterInfo } from "../../core/api/types";

export type Given = Record<string, string>;

/** A field for each parameter, after its type; the service reads the text. */
export function ParameterFields({
  parameters,
  given,
  change,
}: {
  parameters: ParameterInfo[];
  given: Given;
  change: (given: Given) => void;
}) {
  return (
    <>
      {parameters.map((p) =>
        p.type === "bool" ? (
          <Checkbox
            key={p.name}
            mt="sm"
            size="md"
            label={p.label ?? p.name}
            checked={given[p.name] === "true"}
            onChange={(e) => change({ ...given, [p.name]: String(e.currentTarget.checked) })}
          />
        ) : (
          <TextInput
            key={p.name}
            mt="sm"
            name={p.name}
            label={p.label ?? p.name}
            description={`${p.name}: ${p.type}${p.type === "timestamp" ? ", for example 2026-11-22" : ""}`}
            required={p.required}
            value={given[p.name] ?? ""}
            onChange={(e) => change({ ...given, [p.name]: e.currentTarget.value })}
          />
        ),
      )}
    </>
  );
}
