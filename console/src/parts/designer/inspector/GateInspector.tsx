import { Button, Checkbox, NativeSelect, SegmentedControl } from "@mantine/core";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { remove, setKeys } from "../../../core/designer/operations";
import { gateSentence } from "../../../core/designer/sentences";
import type { DesignGate } from "../../../core/document/design";
import { ExpressionField } from "../fields/ExpressionField";
import { useValue } from "../fields/useValue";
import { useDesign, useDesigning } from "../useDesign";

const outcomes = [
  { name: "success", label: "after a success" },
  { name: "failure", label: "after a failure" },
  { name: "skipped", label: "when it was skipped" },
] as const;

const bits: Record<string, string[]> = {
  success: ["success"],
  failure: ["failure"],
  skipped: ["skipped"],
  completion: ["success", "failure"],
  always: ["success", "failure", "skipped"],
  "failure, skipped": ["failure", "skipped"],
  "success, skipped": ["success", "skipped"],
};

/** Everything about the chosen gate. */
export function GateInspector({ gate }: { gate: DesignGate }) {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const [, setOn] = useValue([...gate.path, "on"]);
  const [when, setWhen] = useValue([...gate.path, "when"]);
  const [match, setMatch] = useValue([...gate.path, "match"]);
  const [branch] = useValue([...gate.path, "branch"]);
  // Asked for, but not written yet: an empty condition is none in the file.
  const [asks, setAsks] = useState(false);
  const prefix = gate.scope === "" ? "" : `${gate.scope}/`;
  const source = design.steps.get(`${prefix}${gate.from}`);
  const [branches] = useValue([...(source?.path ?? []), "branches"]);
  const names =
    source?.kind === "decide" && Array.isArray(branches)
      ? branches.map((b) => String((b as { name?: string } | null)?.name ?? ""))
      : [];
  const on = bits[gate.on] ?? ["success"];
  const toggle = (name: string, checked: boolean) => {
    const next = outcomes.map((o) => o.name).filter((o) => (o === name ? checked : on.includes(o)));
    if (next.length === 0) return;
    setOn(
      next.length === 3
        ? "always"
        : next.length === 1
          ? next[0] === "success"
            ? undefined
            : next[0]
          : next.includes("skipped")
            ? next
            : "completion",
    );
  };
  const question = gate.isElse
    ? "else"
    : branch !== undefined
      ? `branch ${String(branch as string)}`
      : when !== undefined || asks
        ? "when"
        : "nothing";
  const choose = (value: string) => {
    setAsks(value === "when");
    store.apply(
      setKeys(store.state.design, gate.path, {
        when: value === "when" ? when : undefined,
        match: value === "when" ? match : undefined,
        branch: value.startsWith("branch ") ? value.slice("branch ".length) : undefined,
        else: value === "else" ? true : undefined,
      }),
    );
  };
  const spot: Spot = { step: null, place: null, scope: gate.scope, from: gate.from };
  const condition =
    branch !== undefined ? String(branch as string) : when === undefined ? null : String(when as string);
  return (
    <>
      <div className="inspecthead">
        <span className="kindword">gate</span>
        <span className="mono idword">
          {gate.from} → {gate.to}
        </span>
      </div>
      <p className="says">
        {gateSentence({
          from: gate.from,
          to: gate.to,
          on: gate.on,
          condition,
          either: match === "either",
          branch: branch !== undefined,
          isElse: gate.isElse,
        })}
      </p>
      <fieldset className="record">
        <legend>It may open</legend>
        {outcomes.map((o) => (
          <Checkbox
            key={o.name}
            size="md"
            mt={4}
            label={o.label}
            checked={on.includes(o.name)}
            onChange={(e) => toggle(o.name, e.currentTarget.checked)}
          />
        ))}
      </fieldset>
      <NativeSelect
        size="xs"
        mt="xs"
        label="What must hold too?"
        value={question}
        data={[
          { value: "nothing", label: names.length > 0 ? "nothing: whichever branch is taken" : "nothing" },
          ...names.map((name) => ({ value: `branch ${name}`, label: `the branch “${name}” is taken` })),
          { value: "when", label: "a condition" },
          { value: "else", label: "else: no condition of the gates beside it" },
        ]}
        onChange={(e) => choose(e.currentTarget.value)}
      />
      {question === "when" && (
        <ExpressionField
          key={String(gate.path)}
          label="Condition"
          description="For example vars.rows > 100; true or false comes of it."
          value={when === undefined ? "" : String(when as string)}
          spot={spot}
          builder
          commit={(t) => setWhen(t.trim())}
        />
      )}
      {question === "when" && (
        <SegmentedControl
          mt="xs"
          size="xs"
          aria-label="Outcome and condition"
          value={match === "either" ? "either" : "both"}
          data={[
            { value: "both", label: "outcome and condition" },
            { value: "either", label: "either is enough" },
          ]}
          onChange={(v) => setMatch(v === "either" ? "either" : undefined)}
        />
      )}
      <div className="inspectfoot">
        <Button
          size="compact-xs"
          variant="default"
          onClick={() => store.select({ steps: [`${prefix}${gate.from}`], gate: null })}
        >
          Go to {gate.from}
        </Button>
        <Button
          size="compact-xs"
          variant="default"
          onClick={() => store.select({ steps: [`${prefix}${gate.to}`], gate: null })}
        >
          Go to {gate.to}
        </Button>
        <Button
          size="compact-xs"
          variant="subtle"
          color="red"
          onClick={() =>
            store.apply(remove(store.state.design, { steps: [], gate: { scope: gate.scope, index: gate.index } }))
          }
        >
          Remove the gate
        </Button>
      </div>
    </>
  );
}
