import { ActionIcon, Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { convert } from "../../../core/designer/parameters";
import { setKey } from "../../../core/designer/operations";
import { spoken, type Schema } from "../../../core/designer/schema";
import type { Path } from "../../../core/document/tree";
import { MapField, SchemaField } from "../fields/SchemaFields";
import { PlainField } from "../fields/PlainField";
import { useValue } from "../fields/useValue";
import { Section } from "./Section";
import { useDesign, useDesigning } from "../useDesign";

const types = [
  "string",
  "int",
  "double",
  "decimal",
  "bool",
  "timestamp",
  "duration",
  "list<string>",
  "list<int>",
  "list",
  "map",
  "any",
];

/** What belongs to the whole chain; shown while nothing else is chosen. */
export function ChainInspector() {
  const { store, kinds } = useDesigning();
  const { design } = useDesign(store);
  const schema = kinds.rules.chain as Schema;
  const properties = schema.properties ?? {};
  const [title, setTitle] = useValue(["title"]);
  const [notes, setNotes] = useValue(["notes"]);
  const outputs: Spot = { step: null, place: null, scope: null, from: null };
  return (
    <>
      <div className="inspecthead">
        <span className="kindword">chain</span>
        <span className="mono idword">{design.name}</span>
      </div>
      <PlainField label="Title" value={String((title as string | undefined) ?? "")} commit={setTitle} />
      <PlainField label="Notes" multiline value={String((notes as string | undefined) ?? "")} commit={setNotes} />
      <Section
        title="Parameters"
        says={
          design.params.length === 0
            ? "Whoever starts it is asked for nothing."
            : `Whoever starts it gives ${design.params.map((p) => p.name).join(", ")}.`
        }
        open
      >
        <Declarations path={["params"]} what="parameter" absent="default" absentLabel="When nothing is given" />
      </Section>
      <Section
        title="Variables"
        says={
          design.vars.length === 0
            ? "Its steps share no variables."
            : `Its steps change ${design.vars.map((v) => v.name).join(", ")}.`
        }
      >
        <Declarations path={["vars"]} what="variable" absent="initial" absentLabel="At the start" />
      </Section>
      <Section title="Outputs" says="What it gives to a chain that calls it.">
        <MapField name="outputs" label="Outputs" schema={properties.outputs ?? {}} path={["outputs"]} spot={outputs} />
      </Section>
      <Section title="How it runs">
        {["lane", "whenBusy", "onFailure", "dueIn", "recover"].map((k) => (
          <SchemaField key={k} name={k} label={spoken(k)} schema={properties[k] ?? {}} path={[k]} spot={outputs} />
        ))}
      </Section>
    </>
  );
}

/** Parameters or variables: name, type, and what holds when nothing else does. */
function Declarations({
  path,
  what,
  absent,
  absentLabel,
}: {
  path: Path;
  what: "parameter" | "variable";
  absent: string;
  absentLabel: string;
}) {
  const { store, rename } = useDesigning();
  const [value] = useValue(path);
  const [name, setName] = useState("");
  const all = Object.entries((value as Record<string, { type?: string; label?: string } | null> | undefined) ?? {});
  const isName = /^[A-Za-z][A-Za-z0-9_]*$/.test(name) && !all.some(([n]) => n === name);
  const add = () => {
    if (!isName) return;
    store.apply(
      setKey(
        store.state.design,
        [...path, name],
        what === "variable" ? { type: "string", initial: "" } : { type: "string" },
      ),
    );
    setName("");
  };
  return (
    <>
      {all.map(([n, d]) => (
        <fieldset className="record" key={n}>
          <legend className="mono">{n}</legend>
          <div className="pair">
            <NativeSelect
              size="xs"
              label="Type"
              aria-label={`Type of ${n}`}
              value={d?.type ?? "any"}
              data={[...new Set([...types, d?.type ?? "any"])]}
              onChange={(e) => {
                // A value of the old type would be an error at once: it makes room for one of the new type.
                const before = (d as Record<string, unknown> | null)?.[absent];
                const type = e.currentTarget.value;
                store.apply(setKey(store.state.design, [...path, n, "type"], type));
                if (before !== undefined)
                  store.apply(setKey(store.state.design, [...path, n, absent], convert(before, type)), true);
              }}
            />
            <SchemaField
              name={absent}
              label={absentLabel}
              schema={{ "x-form": "any" }}
              path={[...path, n, absent]}
              spot={{ step: null, place: null, scope: null, from: null }}
            />
          </div>
          {what === "parameter" && <Label path={[...path, n, "label"]} />}
          <div className="inspectfoot">
            <Button size="compact-xs" variant="subtle" onClick={() => rename(what, "", n)}>
              Rename…
            </Button>
            <ActionIcon
              size="sm"
              variant="subtle"
              aria-label={`Remove ${n}`}
              onClick={() => store.apply(setKey(store.state.design, [...path, n], undefined))}
            >
              ×
            </ActionIcon>
          </div>
        </fieldset>
      ))}
      <div className="maprow">
        <TextInput
          size="xs"
          aria-label={`Name of a new ${what}`}
          placeholder={`new ${what}`}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") add();
          }}
        />
        <Button size="compact-xs" variant="default" disabled={!isName} onClick={add}>
          Add
        </Button>
      </div>
    </>
  );
}

function Label({ path }: { path: Path }) {
  const [value, set] = useValue(path);
  return (
    <PlainField label="What people are asked for" value={String((value as string | undefined) ?? "")} commit={set} />
  );
}
