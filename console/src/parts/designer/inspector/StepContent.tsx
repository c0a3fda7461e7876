import { Button, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../../app/act";
import { saveDraft, type Spot } from "../../../core/api/client";
import { childSource } from "../../../core/designer/newChain";
import { addStep, setKey } from "../../../core/designer/operations";
import { type Schema } from "../../../core/designer/schema";
import type { DesignStep } from "../../../core/document/design";
import { SchemaField } from "../fields/SchemaFields";
import { useValue } from "../fields/useValue";
import { keys } from "../../../queries/keys";
import { useDesigning } from "../useDesign";

/** A branch as the file has it. */
interface Branch {
  name?: string;
  when?: string;
  otherwise?: boolean;
}

export function Branches({ step, schema }: { step: DesignStep; schema: Schema }) {
  const { store, rename } = useDesigning();
  const path = [...step.path, "branches"];
  const [value] = useValue(path);
  const branches = (Array.isArray(value) ? value : []) as Branch[];
  const spot: Spot = { step: step.address, place: "branch", scope: null, from: null };
  const add = () => {
    const at = branches.findIndex((b) => b.otherwise === true);
    const names = branches.map((b) => b.name);
    const name = ["yes", "no", ...Array.from({ length: 50 }, (_, i) => `branch_${String(i + 1)}`)].find(
      (n) => !names.includes(n),
    );
    const next = [...branches];
    next.splice(at < 0 ? next.length : at, 0, { name, when: "true" });
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
export function OpenChild({ step }: { step: DesignStep }) {
  const { store, context, kinds } = useDesigning();
  const { from } = useSearch({ from: "/chains/$name/design" });
  const [chain] = useValue([...step.path, "chain"]);
  const [inputs] = useValue([...step.path, "inputs"]);
  const child = context.chains.find((c) => c.name === chain);
  const given = Object.keys((inputs as object | undefined) ?? {});
  const schema = (kinds.steps.find((k) => k.name === "call")?.schema as Schema | undefined)?.properties?.inputs;
  const inner = typeof schema?.additionalProperties === "object" ? schema.additionalProperties : {};
  const spot: Spot = { step: step.address, place: "input", scope: null, from: null };
  if (!child) {
    return (
      <>
        <NewChild step={step} wanted={typeof chain === "string" ? chain : ""} inputs={inputs} />
        {given.length > 0 && (
          <SchemaField name="inputs" schema={schema ?? {}} path={[...step.path, "inputs"]} spot={spot} />
        )}
      </>
    );
  }
  const others = given.filter((n) => !child.params.some((p) => p.name === n));
  return (
    <>
      {[...child.params, ...others.map((name) => ({ name, type: "?", required: false }))].map((p) => {
        const path = [...step.path, "inputs", p.name];
        // A parameter of the same name is most likely what is meant.
        const own = !given.includes(p.name) && store.state.design.params.some((o) => o.name === p.name);
        const unknown = p.type === "?";
        return (
          <div key={p.name} className="inputrow">
            <SchemaField
              name={p.name}
              label={p.name}
              schema={{
                ...inner,
                description: unknown
                  ? `${child.name} has no such parameter`
                  : `${p.type}${p.required ? "" : ", may be left out"}`,
              }}
              path={path}
              spot={spot}
              required={p.required}
            />
            {own && (
              <Button
                size="compact-xs"
                variant="default"
                title={`Gives params.${p.name}`}
                onClick={(e) => {
                  // The button goes: the keyboard goes on to the field that has the value then.
                  const row = e.currentTarget.closest<HTMLElement>(".inputrow");
                  store.apply(setKey(store.state.design, path, `params.${p.name}`));
                  row?.querySelector<HTMLElement>("input, [contenteditable=true]")?.focus();
                }}
              >
                + {p.name}
              </Button>
            )}
            {unknown && (
              <Button
                size="compact-xs"
                variant="subtle"
                onClick={() => store.apply(setKey(store.state.design, path, undefined))}
              >
                Remove {p.name}
              </Button>
            )}
          </div>
        );
      })}
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

/** Makes the chain that a call is to run: its parameters are what the call gives. */
function NewChild({ step, wanted, inputs }: { step: DesignStep; wanted: string; inputs: unknown }) {
  const { store } = useDesigning();
  const { from } = useSearch({ from: "/chains/$name/design" });
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [name, setName] = useState(wanted);
  const isName = /^[A-Za-z][A-Za-z0-9-]{0,99}$/.test(name);
  const make = () =>
    act("The chain was not made", async () => {
      await saveDraft(name, 0, childSource(name, (inputs ?? {}) as Record<string, unknown>, store.state.design.params));
      store.apply(setKey(store.state.design, [...step.path, "chain"], name));
      await store.save();
      await queries.invalidateQueries({ queryKey: keys.chains });
      await navigate({
        to: "/chains/$name/design",
        params: { name },
        search: { from: [from, store.chain].filter(Boolean).join("~") },
      });
    });
  return (
    <div className="maprow">
      <TextInput
        size="xs"
        aria-label="Name of a new chain"
        placeholder="or the name of a new chain"
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
      />
      <Button size="compact-xs" variant="default" disabled={!isName} onClick={() => void make()}>
        Make this chain ›
      </Button>
    </div>
  );
}

export function Inside({ step }: { step: DesignStep }) {
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
