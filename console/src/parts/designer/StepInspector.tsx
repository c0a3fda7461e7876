import { Button, NativeSelect, Switch, TextInput } from "@mantine/core";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import type { Spot } from "../../core/api/client";
import { addStep, connect, setKey, whyNoGate } from "../../core/designer/operations";
import { spoken, type Schema } from "../../core/designer/schema";
import {
  ifFailsSentences,
  inWords,
  joinSentence,
  onCrashSentences,
  onResumeSentences,
  retrySentence,
  ruleSentence,
  seconds,
  type RetryRule,
} from "../../core/designer/sentences";
import type { DesignGate, DesignStep } from "../../core/document/design";
import { GateMark } from "../canvas/GateMark";
import { MapField, PlainField, SchemaField, SchemaForm, useValue } from "./SchemaFields";
import { RuleFields, Rules } from "./Rules";
import { Section } from "./Section";
import { useDesign, useDesigning } from "./useDesign";
import { scopeOf } from "../../core/stepPath";

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
  const { store, kinds, rename } = useDesigning();
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
  const own = Object.keys(properties)
    .filter((key) => key in places && !["set", "assign", "retry", "expect", "guard"].includes(key))
    .concat(
      Object.keys(properties).filter((key) =>
        ["parallel", "tolerate", "limit", "pause", "atLimit", "chain", "wait", "release"].includes(key),
      ),
    );
  const scope = design.scopes.get(step.scope);
  const [disabled, setDisabled] = useValue([...step.path, "disabled"]);
  const [title, setTitle] = useValue([...step.path, "title"]);
  const [notes, setNotes] = useValue([...step.path, "notes"]);
  const hasSettings = Object.keys(properties.set?.properties ?? {}).length > 0;
  return (
    <>
      <div className="inspecthead">
        <span className="kindword">{step.kind || "no kind"}</span>
        <span className="mono idword">{step.address}</span>
        <Button size="compact-xs" variant="default" onClick={() => rename("step", step.scope, step.id)}>
          Rename…
        </Button>
      </div>
      {kind && <p className="soft small doc">{kind.doc}</p>}
      {!kind && (
        <NativeSelect
          size="xs"
          label="Kind"
          value=""
          data={["", ...kinds.steps.map((k) => k.name)]}
          onChange={(e) => store.apply(setKey(store.state.design, [...step.path, "kind"], e.currentTarget.value))}
        />
      )}
      <PlainField
        label="Title"
        value={String((title as string | undefined) ?? "")}
        placeholder={step.id}
        commit={setTitle}
      />

      <Section title="What it does" open>
        {own
          .filter((key) => key !== "branches")
          .map((key) => (
            <SchemaField
              key={key}
              name={key}
              schema={properties[key] ?? {}}
              path={[...step.path, key]}
              spot={spot(key)}
              required={schema?.required?.includes(key) === true}
              condition={key === "until" || key === "while"}
            />
          ))}
        {own.includes("branches") && <Branches step={step} schema={properties.branches ?? {}} />}
        {hasSettings && <SchemaForm schema={properties.set ?? {}} path={[...step.path, "set"]} spot={spot("set")} />}
        {step.kind === "call" && <OpenChild step={step} />}
        {step.inner && <Inside step={step} />}
        {own.length === 0 && !hasSettings && !step.inner && (
          <p className="soft small">It has no settings of its own.</p>
        )}
      </Section>

      <Starts step={step} gates={scope?.gates.filter((g) => g.to === step.id) ?? []} />
      <Guard step={step} spot={spot("guard")} />
      <Expect step={step} spot={spot("expect")} />
      <Failure step={step} schema={properties} spot={spot("retry")} />
      <Recovery step={step} schema={properties} />
      <Section title="Changes variables" says={assigns(step)}>
        <Assign step={step} schema={properties.assign ?? {}} spot={spot("assign")} />
      </Section>
      <Then step={step} gates={scope?.gates.filter((g) => g.from === step.id) ?? []} />
      <Section title="Notes and more" says={notes === undefined ? undefined : String(notes as string).split("\n")[0]}>
        <PlainField label="Notes" multiline value={String((notes as string | undefined) ?? "")} commit={setNotes} />
        {"lane" in properties && (
          <SchemaField name="lane" schema={properties.lane ?? {}} path={[...step.path, "lane"]} spot={spot("set")} />
        )}
        <Switch
          mt="sm"
          size="xs"
          label="Disabled: passed over as succeeded, without outputs"
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

function Branches({ step, schema }: { step: DesignStep; schema: Schema }) {
  const { store, rename } = useDesigning();
  const path = [...step.path, "branches"];
  const [value] = useValue(path);
  const branches = (Array.isArray(value) ? value : []) as { name?: string; otherwise?: boolean }[];
  const spot: Spot = { step: step.address, place: "branch", scope: null, from: null };
  const add = () => {
    const at = branches.findIndex((b) => b.otherwise === true);
    const names = branches.map((b) => b.name);
    const name = ["yes", "no", ...Array.from({ length: 50 }, (_, i) => `branch_${String(i + 1)}`)].find(
      (n) => !names.includes(n),
    );
    const next = [...branches];
    next.splice(at < 0 ? next.length : at, 0, { name, when: "true" } as never);
    store.apply(setKey(store.state.design, path, next));
  };
  return (
    <div className="rules">
      <div className="labelrow">
        <span className="label">Branches: the first that holds is taken</span>
      </div>
      <ol aria-label="Branches">
        {branches.map((b, i) => (
          <li key={`${String(i)}${b.name ?? ""}`}>
            <div className="rulehead">
              <span className="ruletext">
                <b>{b.name ?? "?"}</b>
                {b.otherwise === true && " when no other holds"}
              </span>
              <Button size="compact-xs" variant="subtle" onClick={() => rename("branch", step.address, b.name ?? "")}>
                Rename…
              </Button>
              <Button
                size="compact-xs"
                variant="subtle"
                aria-label={`Remove branch ${b.name ?? ""}`}
                onClick={() => store.apply(setKey(store.state.design, [...path, i], undefined))}
              >
                ×
              </Button>
            </div>
            {b.otherwise !== true && (
              <SchemaField
                name="when"
                label={`When “${b.name ?? ""}”`}
                schema={schema.items?.properties?.when ?? { "x-form": "expression" }}
                path={[...path, i, "when"]}
                spot={spot}
                condition
              />
            )}
          </li>
        ))}
      </ol>
      <Button size="compact-xs" variant="default" onClick={add}>
        Add a branch
      </Button>
    </div>
  );
}

/** The chain that a call runs, opened with the way back; its parameters as inputs. */
function OpenChild({ step }: { step: DesignStep }) {
  const { store, beside } = useDesigning();
  const { from } = useSearch({ from: "/chains/$name/design" });
  const [chain] = useValue([...step.path, "chain"]);
  const [inputs] = useValue([...step.path, "inputs"]);
  const child = beside.chains.find((c) => c.name === chain);
  if (!child) return null;
  const missing = child.params.filter((p) => !Object.keys((inputs as object | undefined) ?? {}).includes(p.name));
  return (
    <>
      {missing.length > 0 && (
        <p className="small">
          It takes also{" "}
          {missing.map((p) => (
            <Button
              key={p.name}
              size="compact-xs"
              variant="default"
              mr={4}
              title={`${p.type}${p.required ? "" : ", may be left out"}`}
              onClick={() =>
                store.apply(setKey(store.state.design, [...step.path, "inputs", p.name], `params.${p.name}`))
              }
            >
              + {p.name}
              {p.required ? " *" : ""}
            </Button>
          ))}
        </p>
      )}
      <p className="small">
        <Link
          to="/chains/$name/design"
          params={{ name: child.name }}
          search={{ from: [from, store.chain].filter(Boolean).join("~") }}
        >
          Open {child.name} ›
        </Link>
      </p>
    </>
  );
}

function Inside({ step }: { step: DesignStep }) {
  const { store } = useDesigning();
  const inner = step.inner?.steps ?? [];
  return (
    <p className="small">
      {inner.length === 0
        ? "Nothing is inside yet: drop a step onto it, or "
        : `Inside: ${inner.map((s) => s.title).join(", ")}. `}
      <button
        type="button"
        className="linkbutton"
        onClick={() => store.apply(addStep(store.state.design, step.address, "command", null, null))}
      >
        add a command inside
      </button>
    </p>
  );
}

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

function Starts({ step, gates }: { step: DesignStep; gates: DesignGate[] }) {
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

function Then({ step, gates }: { step: DesignStep; gates: DesignGate[] }) {
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

function Guard({ step, spot }: { step: DesignStep; spot: Spot }) {
  const { store, kinds } = useDesigning();
  const path = [...step.path, "guard"];
  const [value, set] = useValue(path);
  const guard = value as
    { probes?: Record<string, { kind?: string }>; rules?: unknown[]; otherwise?: Record<string, unknown> } | undefined;
  const rule = kinds.rules.guardRule as Schema;
  const otherwise = kinds.rules.otherwise as Schema;
  const [name, setName] = useState("");
  const addProbe = (kind: string) => {
    if (name === "" || kind === "") return;
    store.apply(setKey(store.state.design, [...path, "probes", name], { kind }));
    setName("");
  };
  return (
    <Section
      title="Checks before it starts"
      says={
        guard
          ? `${String(guard.rules?.length ?? 0)} rules; else ${ruleSentence(guard.otherwise ?? {})}.`
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
              placeholder="name"
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
            />
            <NativeSelect
              size="xs"
              aria-label="What the new probe looks at"
              value=""
              disabled={name === ""}
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

function Expect({ step, spot }: { step: DesignStep; spot: Spot }) {
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

function Failure({ step, schema, spot }: { step: DesignStep; schema: Record<string, Schema>; spot: Spot }) {
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

function Recovery({ step, schema }: { step: DesignStep; schema: Record<string, Schema> }) {
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

function Assign({ step, schema, spot }: { step: DesignStep; schema: Schema; spot: Spot }) {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const path = [...step.path, "assign"];
  const [value] = useValue(path);
  const taken = Object.keys((value as object | undefined) ?? {});
  const scopes = [...ancestors(step.address)];
  const vars = scopes
    .flatMap((s) => (s === "" ? design.vars.map((v) => v.name) : []))
    .filter((v) => !taken.includes(`vars.${v}`));
  return (
    <>
      <MapField name="assign" label="After a success" schema={schema} path={path} spot={spot} />
      {vars.length > 0 && (
        <NativeSelect
          mt="xs"
          size="xs"
          label="Set a variable"
          value=""
          data={["", ...vars]}
          onChange={(e) => {
            if (e.currentTarget.value !== "")
              store.apply(
                setKey(store.state.design, [...path, `vars.${e.currentTarget.value}`], `vars.${e.currentTarget.value}`),
              );
          }}
        />
      )}
    </>
  );
}

function* ancestors(address: string): Generator<string> {
  for (let scope = scopeOf(address); ; scope = scopeOf(scope)) {
    yield scope;
    if (scope === "") return;
  }
}
