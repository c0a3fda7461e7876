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
  const { store, context } = useDesigning();
  const { from } = useSearch({ from: "/chains/$name/design" });
  const [chain] = useValue([...step.path, "chain"]);
  const [inputs] = useValue([...step.path, "inputs"]);
  const child = context.chains.find((c) => c.name === chain);
  if (!child) return <NewChild step={step} wanted={typeof chain === "string" ? chain : ""} inputs={inputs} />;
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
                store.apply(
                  setKey(
                    store.state.design,
                    [...step.path, "inputs", p.name],
                    // A parameter of the same name is most likely what is meant; otherwise the field waits for a value.
                    store.state.design.params.some((own) => own.name === p.name) ? `params.${p.name}` : null,
                  ),
                )
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
        placeholder="name of a new chain"
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
