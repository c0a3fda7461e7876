import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { namesRead } from "../../../core/designer/templates";
import { valuesOf } from "../../../core/values/typed";
import { namesQuery, trialQuery } from "../../../queries/design";
import type { GivenOutputs } from "../../form/OutputFields";
import { ValueField } from "../../form/ValueField";
import { useDesigning } from "../useDesign";

/** Computes expressions with values that one makes up. */
export function ExpressionTrial({ texts, spot }: { texts: readonly string[]; spot: Spot }) {
  const { store } = useDesigning();
  const [given, setGiven] = useState<GivenOutputs>({});
  const { data: names } = useQuery(namesQuery(store.chain, () => store.text, spot, String(store.state.version)));
  const used = (names ?? []).filter((n) => texts.some((t) => namesRead(t).has(n.name)));
  const made = Object.fromEntries(Object.entries(given).filter(([name]) => used.some((n) => n.name === name)));
  return (
    <div className="trial" role="group" aria-label="Try with values">
      {used.length === 0 && <p className="soft small">It reads no value that could be made up.</p>}
      {used.map((n) => (
        <ValueField
          key={n.name}
          size="xs"
          type={n.type}
          label={n.name}
          text={given[n.name]?.text}
          change={(text) => setGiven({ ...given, [n.name]: { type: n.type, text: text ?? "" } })}
        />
      ))}
      {texts.map((text, i) => (
        <Result key={i} text={text} spot={spot} values={valuesOf(made)} />
      ))}
    </div>
  );
}

function Result({ text, spot, values }: { text: string; spot: Spot; values: Record<string, unknown> }) {
  const { store } = useDesigning();
  const { data } = useQuery(trialQuery(store.chain, () => store.text, spot, text, values));
  return (
    <p className="small trialresult" role="status">
      <code>{text}</code> {data?.value != null ? <>is {<code>{data.value}</code>}</> : (data?.valueError ?? "…")}
    </p>
  );
}
