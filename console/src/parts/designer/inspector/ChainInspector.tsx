import { ActionIcon, Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { convert } from "../../../core/designer/parameters";
import { moveKey, setKey } from "../../../core/designer/operations";
import { spoken, type Schema } from "../../../core/designer/schema";
import type { Path } from "../../../core/document/tree";
import { readTyped, textOf } from "../../../core/values/typed";
import { ValueField } from "../../form/ValueField";
import { MapField, SchemaField } from "../fields/SchemaFields";
import { PlainField } from "../fields/PlainField";
import { SchemaForm } from "../fields/SchemaForm";
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
  const [defaults] = useValue(["defaults"]);
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
        {["whenBusy", "busyKey", "queueLimit", "onFailure", "dueIn", "recover", "lane", "place"].map((k) => (
          <SchemaField key={k} name={k} label={spoken(k)} schema={properties[k] ?? {}} path={[k]} spot={outputs} />
        ))}
      </Section>
      <Section title="Defaults" says={defaultsSentence(defaults)}>
        <p className="soft small">
          What its working steps have that do not say it themselves: not containers, calls and waits, nor the steps of
          chains that it calls.
        </p>
        <SchemaForm schema={properties.defaults ?? {}} path={["defaults"]} spot={outputs} />
      </Section>
    </>
  );
}

function defaultsSentence(defaults: unknown): string {
  const names = Object.keys((defaults as object | undefined) ?? {});
  return names.length === 0
    ? "Each step says itself how it is retried, and how long it may take."
    : `For its steps: ${names.map(spoken).join(", ").toLowerCase()}.`;
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
  const all = Object.entries(
    (value as Record<string, { type?: string; label?: string; secret?: unknown } | null> | undefined) ?? {},
  );
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
  const setValue = (n: string, type: string, text: string | undefined) => {
    const read = text === undefined ? { value: undefined } : readTyped(type, text);
    // What can't be read goes into the file as it is: the check says what is wrong with it.
    const next = "value" in read ? read.value : text;
    store.apply(setKey(store.state.design, [...path, n, absent], next), true);
  };
  return (
    <>
      {all.map(([n, d], i) => (
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
            <ValueField
              type={d?.type ?? "any"}
              label={absentLabel}
              size="xs"
              text={textOf(d?.type ?? "any", (d as Record<string, unknown> | null)?.[absent])}
              change={(text) => setValue(n, d?.type ?? "any", text)}
            />
          </div>
          {what === "parameter" && <Label path={[...path, n, "label"]} />}
          {(what === "variable" || d?.type === "string" || d?.secret === true) && (
            <Flag
              path={[...path, n, what === "variable" ? "keep" : "secret"]}
              label={
                what === "variable"
                  ? "Its value goes from run to run"
                  : "It is a secret: given as secret:NAME, shown to nobody"
              }
            />
          )}
          <div className="inspectfoot">
            {(["up", "down"] as const).map((way) => (
              <ActionIcon
                key={way}
                size="sm"
                variant="subtle"
                aria-label={`Move ${n} ${way}`}
                disabled={way === "up" ? i === 0 : i === all.length - 1}
                onClick={() => store.apply(moveKey(store.state.design, path, n, way === "up" ? -1 : 1))}
              >
                {way === "up" ? "↑" : "↓"}
              </ActionIcon>
            ))}
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

/** Something that a declaration says or does not. */
function Flag({ path, label }: { path: Path; label: string }) {
  const [value, set] = useValue(path);
  return (
    <Checkbox
      mt="xs"
      size="xs"
      label={label}
      checked={value === true}
      onChange={(e) => set(e.currentTarget.checked ? true : undefined)}
    />
  );
}

function Label({ path }: { path: Path }) {
  const [value, set] = useValue(path);
  return (
    <PlainField label="What people are asked for" value={String((value as string | undefined) ?? "")} commit={set} />
  );
}
