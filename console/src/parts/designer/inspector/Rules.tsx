import { ActionIcon, Button } from "@mantine/core";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { moveRule, setKey } from "../../../core/designer/operations";
import type { Schema } from "../../../core/designer/schema";
import { ruleSentence } from "../../../core/designer/sentences";
import type { Path } from "../../../core/document/tree";
import { SchemaField } from "../fields/SchemaFields";
import { useValue } from "../fields/useValue";
import { useDesigning } from "../useDesign";

const holdKeys = ["recheck", "at", "zone", "limit", "then"];

/** The fields of one rule; what only a hold has shows for a hold. */
export function RuleFields({ schema, path, spot }: { schema: Schema; path: Path; spot: Spot }) {
  const [value] = useValue(path);
  const holds = (value as Record<string, unknown> | null | undefined)?.verdict === "hold";
  return (
    <>
      {Object.entries(schema.properties ?? {})
        .filter(([name]) => holds || !holdKeys.includes(name))
        .map(([name, s]) => (
          <SchemaField
            key={`${path.join("/")}/${name}`}
            name={name}
            schema={s}
            path={[...path, name]}
            spot={spot}
            required={schema.required?.includes(name) === true}
            condition={name === "when"}
          />
        ))}
    </>
  );
}

/** Rules in order: the first one that holds decides. They are dragged, or moved by their arrows. */
export function Rules({
  path,
  schema,
  spot,
  fresh,
  what,
}: {
  path: Path;
  schema: Schema;
  spot: Spot;
  fresh: Record<string, unknown>;
  what: string;
}) {
  const { store } = useDesigning();
  const [value] = useValue(path);
  const [dragged, setDragged] = useState<number | null>(null);
  const [open, setOpen] = useState<number | null>(null);
  const rules = (Array.isArray(value) ? value : []) as (Record<string, unknown> | null)[];
  const move = (from: number, to: number) => {
    if (to < 0 || to >= rules.length) return;
    store.apply(moveRule(store.state.design, path, from, to));
    setOpen(null);
  };
  return (
    <div className="rules">
      <ol aria-label={what}>
        {rules.map((rule, i) => (
          <li
            key={i}
            data-dragged={dragged === i}
            onDragOver={(e) => {
              if (dragged !== null) e.preventDefault();
            }}
            onDrop={(e) => {
              e.preventDefault();
              if (dragged !== null) move(dragged, i);
              setDragged(null);
            }}
          >
            <div className="rulehead">
              <span
                className="grip"
                draggable
                title="Drag to another place"
                onDragStart={(e) => {
                  e.dataTransfer.effectAllowed = "move";
                  setDragged(i);
                }}
                onDragEnd={() => setDragged(null)}
                aria-hidden
              >
                ⠿
              </span>
              <button
                type="button"
                className="ruletext"
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? null : i)}
              >
                {i + 1}. When <code>{String((rule?.when as string | undefined) ?? "…")}</code>,{" "}
                {ruleSentence(rule ?? {})}.
              </button>
              <ActionIcon
                size="sm"
                variant="subtle"
                aria-label={`Move rule ${String(i + 1)} up`}
                disabled={i === 0}
                onClick={() => move(i, i - 1)}
              >
                ↑
              </ActionIcon>
              <ActionIcon
                size="sm"
                variant="subtle"
                aria-label={`Move rule ${String(i + 1)} down`}
                disabled={i === rules.length - 1}
                onClick={() => move(i, i + 1)}
              >
                ↓
              </ActionIcon>
              <ActionIcon
                size="sm"
                variant="subtle"
                aria-label={`Remove rule ${String(i + 1)}`}
                onClick={() => store.apply(setKey(store.state.design, [...path, i], undefined))}
              >
                ×
              </ActionIcon>
            </div>
            {open === i && <RuleFields schema={schema} path={[...path, i]} spot={spot} />}
          </li>
        ))}
      </ol>
      <Button
        size="compact-xs"
        variant="default"
        onClick={() => {
          store.apply(setKey(store.state.design, [...path, rules.length], fresh));
          setOpen(rules.length);
        }}
      >
        Add a rule
      </Button>
    </div>
  );
}
