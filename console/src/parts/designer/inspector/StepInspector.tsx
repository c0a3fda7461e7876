import { NativeSelect, Switch } from "@mantine/core";
import type { Spot } from "../../../core/api/client";
import { setKey } from "../../../core/designer/operations";
import { type Schema } from "../../../core/designer/schema";
import type { DesignStep } from "../../../core/document/design";
import { SchemaField } from "../fields/SchemaFields";
import { SchemaForm } from "../fields/SchemaForm";
import { IdField } from "./IdField";
import { PlainField } from "../fields/PlainField";
import { useValue } from "../fields/useValue";
import { Section } from "./Section";
import { useDesign, useDesigning } from "../useDesign";
import { scopeOf } from "../../../core/stepPath";
import { Branches, OpenChild, Inside } from "./StepContent";
import { Starts, Then } from "./StepGates";
import { Guard, Expect, Failure, Recovery, Assign } from "./StepRules";
import { KindTile } from "../../kinds/KindIcon";
import { Prose } from "../../page/Prose";

/** Places of expressions by the key that holds them. */
const places: Record<string, string> = {
  set: "setting",
  over: "over",
  collect: "collect",
  until: "until",
  while: "while",
  inputs: "input",
  branches: "branch",
  assign: "assign",
  retry: "retry",
  expect: "expect",
  guard: "guard",
};

/** Everything about the chosen step. */
export function StepInspector({ step }: { step: DesignStep }) {
  const { store, kinds } = useDesigning();
  const { design } = useDesign(store);
  const kind = kinds.steps.find((k) => k.name === step.kind);
  const schema = kind?.schema as Schema | undefined;
  const properties = schema?.properties ?? {};
  const spot = (key: string): Spot => ({
    step: step.address,
    place: places[key] ?? "setting",
    scope: null,
    from: null,
  });
  // A call shows its chain first, and what that takes.
  const own = [
    "chain",
    "over",
    "collect",
    "until",
    "while",
    "parallel",
    "tolerate",
    "limit",
    "pause",
    "atLimit",
  ].filter((key) => key in properties);
  const scope = design.scopes.get(step.scope);
  const [disabled, setDisabled] = useValue([...step.path, "disabled"]);
  const [title, setTitle] = useValue([...step.path, "title"]);
  const [notes, setNotes] = useValue([...step.path, "notes"]);
  const hasSettings = Object.keys(properties.set?.properties ?? {}).length > 0;
  // That is all it does.
  const isAssign = step.kind === "assign";
  const field = (key: string) => (
    <SchemaField
      key={key}
      name={key}
      schema={properties[key] ?? {}}
      path={[...step.path, key]}
      spot={spot(key)}
      required={schema?.required?.includes(key) === true}
      condition={key === "until" || key === "while"}
    />
  );
  return (
    <>
      <div className="inspecthead">
        <KindTile kind={step.kind} />
        <span className="kindword">{step.kind || "no kind"}</span>
        <span className="mono idword">{step.address}</span>
      </div>
      {kind && (
        <p className="soft small doc">
          <Prose text={kind.doc} />
        </p>
      )}
      {!kind && (
        <NativeSelect
          size="xs"
          label="Kind"
          value=""
          data={["", ...kinds.steps.map((k) => k.name)]}
          onChange={(e) => store.apply(setKey(store.state.design, [...step.path, "kind"], e.currentTarget.value))}
        />
      )}
      <IdField step={step} />
      <PlainField
        label="Title"
        value={String((title as string | undefined) ?? "")}
        placeholder={step.id}
        commit={setTitle}
      />

      <Section title="What it does" open>
        {own.map(field)}
        {"branches" in properties && <Branches step={step} schema={properties.branches ?? {}} />}
        {hasSettings && <SchemaForm schema={properties.set ?? {}} path={[...step.path, "set"]} spot={spot("set")} />}
        {step.kind === "call" && (
          <>
            <OpenChild step={step} />
            {["wait", "release"].map(field)}
          </>
        )}
        {step.inner && <Inside step={step} />}
        {isAssign && <Assign step={step} schema={properties.assign ?? {}} spot={spot("assign")} />}
      </Section>

      <Starts step={step} gates={scope?.gates.filter((g) => g.to === step.id) ?? []} />
      <Guard step={step} spot={spot("guard")} />
      <Expect step={step} spot={spot("expect")} />
      <Failure step={step} schema={properties} spot={spot("retry")} />
      <Recovery step={step} schema={properties} />
      {!isAssign && (
        <Section title="Changes variables" says={assigns(step)}>
          <Assign step={step} schema={properties.assign ?? {}} spot={spot("assign")} />
        </Section>
      )}
      <Then step={step} gates={scope?.gates.filter((g) => g.from === step.id) ?? []} />
      <Section title="Notes and more" says={notes === undefined ? undefined : String(notes as string).split("\n")[0]}>
        <PlainField label="Notes" multiline value={String((notes as string | undefined) ?? "")} commit={setNotes} />
        {"place" in properties && (
          <SchemaField name="place" schema={properties.place ?? {}} path={[...step.path, "place"]} spot={spot("set")} />
        )}
        {"lane" in properties && (
          <SchemaField name="lane" schema={properties.lane ?? {}} path={[...step.path, "lane"]} spot={spot("set")} />
        )}
        <Switch
          mt="sm"
          size="xs"
          label="Disabled: does not run and counts as succeeded, without outputs"
          checked={disabled === true}
          onChange={(e) => setDisabled(e.currentTarget.checked ? true : undefined)}
        />
        {kind && kind.outputs.length > 0 && (
          <p className="small soft">
            It gives{" "}
            {kind.outputs.map((o, i) => (
              <span key={o.name}>
                {i > 0 && ", "}
                <code>{o.name}</code> ({o.type})
              </span>
            ))}
            .
          </p>
        )}
      </Section>
    </>
  );
}

const assigns = (step: DesignStep) =>
  step.note?.includes("vars.") === true ? `After a success it sets ${step.note.replaceAll("vars.", "")}.` : undefined;

export function* ancestors(address: string): Generator<string> {
  for (let scope = scopeOf(address); ; scope = scopeOf(scope)) {
    yield scope;
    if (scope === "") return;
  }
}
