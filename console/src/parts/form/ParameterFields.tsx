import { useQuery } from "@tanstack/react-query";
import type { ParameterInfo } from "../../core/api/types";
import { holds } from "../../core/access/may";
import { without, type Given } from "../../core/values/typed";
import { secretsQuery } from "../../queries/service";
import { ValueField } from "./ValueField";

/** A field for each parameter, after its type. */
export function ParameterFields({
  parameters,
  given,
  change,
  wrong = {},
  last = {},
  folder,
  size,
}: {
  parameters: readonly ParameterInfo[];
  given: Given;
  change: (given: Given) => void;
  /** What is wrong with them, by name. */
  wrong?: Readonly<Record<string, string | undefined>>;
  /** What was given last, offered where it differs. */
  last?: Given;
  /** Where the chain lies: only secrets for it are offered. */
  folder?: string;
  size?: "xs" | "sm";
}) {
  const set = (name: string, text: string | undefined) =>
    change(text === undefined ? without(given, name) : { ...given, [name]: text });
  const secrets = useQuery({ ...secretsQuery, enabled: parameters.some((p) => p.secret) }).data ?? [];
  return (
    <>
      {parameters.map((p) => {
        const before = last[p.name];
        const names = p.secret
          ? secrets.filter((s) => s.isSet && holds(s.area, folder ?? s.area)).map((s) => `secret:${s.name}`)
          : [];
        return (
          <ValueField
            key={`${p.name} ${p.type}`}
            type={p.type}
            name={p.name}
            label={p.label ?? p.name}
            description={
              p.secret
                ? `${p.name}: the name of a secret, as secret:NAME`
                : p.label == null && p.type === "string"
                  ? undefined
                  : `${p.name}: ${p.type}`
            }
            required={p.required && p.type !== "bool"}
            text={given[p.name]}
            change={(text) => set(p.name, text)}
            error={wrong[p.name]}
            offered={before === undefined ? names : [before, ...names]}
            emptyCounts={!p.secret}
            size={size}
          />
        );
      })}
    </>
  );
}
