import { NativeSelect } from "@mantine/core";
import { connect, whyNoGate } from "../../../core/designer/operations";
import { joinSentence } from "../../../core/designer/sentences";
import type { DesignGate, DesignStep } from "../../../core/document/design";
import { GateMark } from "../../canvas/GateMark";
import { useValue } from "../fields/useValue";
import { Section } from "./Section";
import { useDesign, useDesigning } from "../useDesign";

function GateButton({ gate, name, other }: { gate: DesignGate; name: string; other: string }) {
  const { store } = useDesigning();
  return (
    <li>
      <button
        type="button"
        className="gaterow"
        onClick={() => store.select({ steps: [], gate: { scope: gate.scope, index: gate.index } })}
      >
        <GateMark state="drawn" size={14} /> {name} <b>{other}</b>{" "}
        <span className="soft">{gate.label === "" ? "on success" : gate.label}</span>
      </button>
    </li>
  );
}

export function Starts({ step, gates }: { step: DesignStep; gates: DesignGate[] }) {
  const [, setJoin] = useValue([...step.path, "join"]);
  return (
    <Section title="When it starts" says={joinSentence(step.join, gates.length)} open={gates.length > 1}>
      <ul className="gatelist">
        {gates.map((g) => (
          <GateButton key={g.index} gate={g} name="from" other={g.from} />
        ))}
      </ul>
      {gates.length > 1 && (
        <NativeSelect
          size="xs"
          label="It needs"
          value={step.join}
          onChange={(e) =>
            setJoin(
              e.currentTarget.value === "all"
                ? undefined
                : /^\d+$/.test(e.currentTarget.value)
                  ? Number(e.currentTarget.value)
                  : e.currentTarget.value,
            )
          }
          data={[
            { value: "all", label: "all gates open" },
            { value: "any", label: "any one gate, as soon as it opens" },
            { value: "some", label: "at least one, once all are decided" },
            ...Array.from({ length: gates.length - 1 }, (_, i) => ({
              value: String(i + 2),
              label: `${String(i + 2)} open gates`,
            })).slice(0, -1),
            ...(/^\d+$/.test(step.join) && Number(step.join) >= gates.length
              ? [{ value: step.join, label: `${step.join} open gates` }]
              : []),
          ]}
        />
      )}
    </Section>
  );
}

export function Then({ step, gates }: { step: DesignStep; gates: DesignGate[] }) {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const others = (design.scopes.get(step.scope)?.steps ?? []).filter(
    (s) => whyNoGate(design, step.address, s.address) === null && !gates.some((g) => g.to === s.id),
  );
  return (
    <Section
      title="What comes next"
      says={gates.length === 0 ? "Nothing waits for it." : undefined}
      open={gates.length > 0}
    >
      <ul className="gatelist">
        {gates.map((g) => (
          <GateButton key={g.index} gate={g} name="to" other={g.to} />
        ))}
      </ul>
      {others.length > 0 && (
        <NativeSelect
          size="xs"
          label="Draw a gate to"
          value=""
          data={[
            { value: "", label: "choose a step" },
            ...others.map((s) => ({ value: s.address, label: s.title === s.id ? s.id : `${s.title} (${s.id})` })),
          ]}
          onChange={(e) => {
            if (e.currentTarget.value !== "")
              store.apply(connect(store.state.design, step.address, e.currentTarget.value));
          }}
        />
      )}
    </Section>
  );
}
