import type { ParameterInfo } from "../../core/api/types";
import { without, type Given } from "../../core/values/typed";
import { ValueField } from "./ValueField";

/** A field for each parameter, after its type. */
export function ParameterFields({
  parameters,
  given,
  change,
  wrong = {},
  last = {},
  size,
}: {
  parameters: readonly ParameterInfo[];
  given: Given;
  change: (given: Given) => void;
  /** What is wrong with them, by name. */
  wrong?: Readonly<Record<string, string | undefined>>;
  /** What was given last, offered where it differs. */
  last?: Given;
  size?: "xs" | "sm";
}) {
  const set = (name: string, text: string | undefined) =>
    change(text === undefined ? without(given, name) : { ...given, [name]: text });
  return (
    <>
      {parameters.map((p) => {
        const before = last[p.name];
        return (
          <ValueField
            key={`${p.name} ${p.type}`}
            type={p.type}
            name={p.name}
            label={p.label ?? p.name}
            description={p.label == null && p.type === "string" ? undefined : `${p.name}: ${p.type}`}
            required={p.required && p.type !== "bool"}
            text={given[p.name]}
            change={(text) => set(p.name, text)}
            error={wrong[p.name]}
            offered={before === undefined ? [] : [before]}
            size={size}
          />
        );
      })}
    </>
  );
}
