import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { nothing, setKey } from "../../../core/designer/operations";
import { spoken, type Schema } from "../../../core/designer/schema";
import {
  ifFailsSentences,
  inWords,
  onCrashSentences,
  onResumeSentences,
  retrySentence,
  ruleSentence,
  seconds,
  type RetryRule,
} from "../../../core/designer/sentences";
import { at, plain } from "../../../core/document/tree";
import { isBand } from "../../../core/graph/bands";
import type { DesignStep } from "../../../core/document/design";
import { MapField, SchemaField } from "../fields/SchemaFields";
import { SchemaForm } from "../fields/SchemaForm";
import { useValue } from "../fields/useValue";
import { RuleFields, Rules } from "./Rules";
import { Section } from "./Section";
import { useDesign, useDesigning } from "../useDesign";
import { ancestors } from "./StepInspector";

export function Guard({ step, spot }: { step: DesignStep; spot: Spot }) {
  const { store, kinds } = useDesigning();
  const path = [...step.path, "guard"];
  const [value, set] = useValue(path);
  const guard = value as
    { probes?: Record<string, { kind?: string }>; rules?: unknown[]; otherwise?: Record<string, unknown> } | undefined;
  const rule = kinds.rules.guardRule as Schema;
  const otherwise = kinds.rules.otherwise as Schema;
  const [name, setName] = useState("");
  const addProbe = (kind: string) => {
    if (kind === "") return;
    const taken = Object.keys(guard?.probes ?? {});
    // Without a name of its own it is called what it looks at.
    const free = [kind, ...taken.map((_, i) => `${kind}_${String(i + 2)}`)].find((n) => !taken.includes(n)) ?? kind;
    store.apply(setKey(store.state.design, [...path, "probes", name === "" ? free : name], { kind }));
    setName("");
  };
  return (
    <Section
      title="Checks before it starts"
      says={
        guard
          ? `${(guard.rules?.length ?? 0) === 1 ? "1 rule" : `${String(guard.rules?.length ?? 0)} rules`}; else ${ruleSentence(guard.otherwise ?? {})}.`
          : "No guard stands on its threshold."
      }
    >
      {!guard && (
        <Button size="compact-xs" variant="default" onClick={() => set({ otherwise: { verdict: "proceed" } })}>
          Put up a guard
        </Button>
      )}
      {guard && (
        <>
          <div className="label">Looks at</div>
          {Object.entries(guard.probes ?? {}).map(([probe, p]) => (
            <fieldset className="record" key={probe}>
              <legend>
                {probe}: {p.kind}
              </legend>
              <SchemaForm
                schema={(kinds.probes.find((k) => k.name === p.kind)?.schema ?? {}) as Schema}
                path={[...path, "probes", probe]}
                spot={{ ...spot, place: "probe" }}
                without={["kind"]}
              />
              <Button
                size="compact-xs"
                variant="subtle"
                onClick={() => store.apply(setKey(store.state.design, [...path, "probes", probe], undefined))}
              >
                Remove {probe}
              </Button>
            </fieldset>
          ))}
          <div className="maprow">
            <TextInput
              size="xs"
              aria-label="Name of a new probe"
              placeholder="name, if it needs one"
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
            />
            <NativeSelect
              size="xs"
              aria-label="What the new probe looks at"
              value=""
              data={[{ value: "", label: "look at…" }, ...kinds.probes.map((k) => ({ value: k.name, label: k.name }))]}
              onChange={(e) => addProbe(e.currentTarget.value)}
            />
          </div>
          <div className="label">The first rule that holds decides</div>
          <Rules
            path={[...path, "rules"]}
            schema={rule}
            spot={spot}
            fresh={{ when: "true", verdict: "proceed" }}
            what="Rules of the guard"
          />
          <fieldset className="record">
            <legend>
              When no rule holds{" "}
              <span className="required" aria-hidden>
                *
              </span>
            </legend>
            <p className="says">Then {ruleSentence(guard.otherwise ?? {})}.</p>
            <RuleFields schema={otherwise} path={[...path, "otherwise"]} spot={spot} />
          </fieldset>
          <Button size="compact-xs" variant="subtle" color="red" onClick={() => set(undefined)}>
            Take the guard away
          </Button>
        </>
      )}
    </Section>
  );
}

export function Expect({ step, spot }: { step: DesignStep; spot: Spot }) {
  const { kinds } = useDesigning();
  const path = [...step.path, "expect"];
  const [value] = useValue(path);
  const rules = (Array.isArray(value) ? value : []) as Record<string, unknown>[];
  return (
    <Section
      title="Checks on its result"
      says={
        rules.length === 0
          ? "Whatever it gives is accepted."
          : `${String(rules.length)} ${rules.length === 1 ? "rule" : "rules"}: when ${String((rules[0]?.when as string | undefined) ?? "…")}, ${ruleSentence(rules[0] ?? {})}${rules.length > 1 ? " …" : "."}`
      }
    >
      <Rules
        path={path}
        schema={kinds.rules.expectRule as Schema}
        spot={spot}
        fresh={{ when: "true", verdict: "warn" }}
        what="Rules about the result"
      />
      <p className="hint soft">When no rule holds, the result is accepted.</p>
    </Section>
  );
}

export function Failure({ step, schema, spot }: { step: DesignStep; schema: Record<string, Schema>; spot: Spot }) {
  const [retry, setRetry] = useValue([...step.path, "retry"]);
  const [timeout] = useValue([...step.path, "timeout"]);
  const limit =
    timeout === undefined
      ? ""
      : ` Each attempt may take ${seconds(String(timeout as string)) === null ? "…" : inWords(seconds(String(timeout as string)) ?? 0)}.`;
  return (
    <Section
      title="When it fails"
      says={`${retrySentence((retry as RetryRule | undefined) ?? null)}${limit} ${ifFailsSentences[step.ifFails] ?? ""}`}
    >
      {retry === undefined ? (
        <Button size="compact-xs" variant="default" onClick={() => setRetry({ limit: 3, wait: "5s", factor: 2 })}>
          Try again when it fails
        </Button>
      ) : (
        <fieldset className="record">
          <legend>Tries again</legend>
          <SchemaForm schema={schema.retry ?? {}} path={[...step.path, "retry"]} spot={spot} />
          <Button mt="xs" size="compact-xs" variant="subtle" onClick={() => setRetry(undefined)}>
            Try only once
          </Button>
        </fieldset>
      )}
      <SchemaField
        name="timeout"
        label="Longest time of an attempt"
        schema={schema.timeout ?? {}}
        path={[...step.path, "timeout"]}
        spot={spot}
      />
      <SchemaField
        name="ifFails"
        label="A failure for good"
        schema={schema.ifFails ?? {}}
        path={[...step.path, "ifFails"]}
        spot={spot}
      />
    </Section>
  );
}

export function Recovery({ step, schema }: { step: DesignStep; schema: Record<string, Schema> }) {
  const [onCrash] = useValue([...step.path, "onCrash"]);
  const [onResume] = useValue([...step.path, "onResume"]);
  const spot: Spot = { step: step.address, place: "setting", scope: null, from: null };
  return (
    <Section
      title="After a crash, on resume"
      says={`${onCrashSentences[String((onCrash as string | undefined) ?? "redo")] ?? ""} ${onResumeSentences[String((onResume as string | undefined) ?? "keep")] ?? ""}`}
    >
      {["onCrash", "crashLimit", "onResume", "resumeAs"]
        .filter((k) => k in schema)
        .map((k) => (
          <SchemaField
            key={k}
            name={k}
            label={spoken(k)}
            schema={schema[k] ?? {}}
            path={[...step.path, k]}
            spot={spot}
          />
        ))}
    </Section>
  );
}

export function Assign({ step, schema, spot }: { step: DesignStep; schema: Schema; spot: Spot }) {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const path = [...step.path, "assign"];
  const [value] = useValue(path);
  const taken = Object.keys((value as object | undefined) ?? {});
  // Those of the containers around it count too.
  const declared = (scope: string) =>
    Object.keys(Object(plain(at(design.file.root, [...pathOf(scope), "vars"]))) as object);
  const pathOf = (scope: string) => design.steps.get(scope)?.path ?? [];
  const vars = [...new Set([...ancestors(step.address)].filter((s) => !isBand(s)).flatMap(declared))].filter(
    (v) => !taken.includes(`vars.${v}`),
  );
  return (
    <>
      {taken.length > 0 && (
        <MapField name="assign" label="After a success" schema={schema} path={path} spot={spot} closed />
      )}
      {vars.length + taken.length === 0 && (
        <p className="soft small">
          The chain has no variables yet.{" "}
          <button type="button" className="linkbutton" onClick={() => store.select(nothing)}>
            Add one in the chain’s form
          </button>
        </p>
      )}
      {vars.length > 0 && (
        <NativeSelect
          mt="xs"
          size="xs"
          label="Set a variable"
          value=""
          data={["", ...vars]}
          onChange={(e) => {
            if (e.currentTarget.value !== "")
              store.apply(setKey(store.state.design, [...path, `vars.${e.currentTarget.value}`], null));
          }}
        />
      )}
    </>
  );
}
