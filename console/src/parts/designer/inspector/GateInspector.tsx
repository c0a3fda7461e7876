import { Button, Checkbox, NativeSelect, SegmentedControl } from "@mantine/core";
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
  const [branch, setBranch] = useValue([...gate.path, "branch"]);
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
  const setElse = (isElse: boolean) =>
    store.apply(
      setKeys(
        store.state.design,
        gate.path,
        isElse ? { when: undefined, match: undefined, branch: undefined, else: true } : { else: undefined },
      ),
    );
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
            size="xs"
            mt={6}
            label={o.label}
            checked={on.includes(o.name)}
            onChange={(e) => toggle(o.name, e.currentTarget.checked)}
          />
        ))}
      </fieldset>
      {names.length > 0 && !gate.isElse && (
        <NativeSelect
          size="xs"
          mt="xs"
          label="Branch"
          value={branch === undefined ? "" : String(branch as string)}
          data={[{ value: "", label: "whichever is taken" }, ...names]}
          onChange={(e) => setBranch(e.currentTarget.value)}
        />
      )}
      {branch === undefined && !gate.isElse && (
        <ExpressionField
          key={String(gate.path)}
          label="Condition"
          description="What must hold too; empty for nothing."
          value={when === undefined ? "" : String(when as string)}
          spot={spot}
          builder
          commit={(t) => setWhen(t.trim())}
        />
      )}
      {when !== undefined && branch === undefined && (
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
      <Checkbox
        size="xs"
        mt="sm"
        label="else"
        description="It opens when no condition of the gates beside it has; it has none of its own."
        checked={gate.isElse}
        onChange={(e) => setElse(e.currentTarget.checked)}
      />
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
