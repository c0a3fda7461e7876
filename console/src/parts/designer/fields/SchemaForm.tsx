import { NativeSelect } from "@mantine/core";
import { useState, type ReactNode } from "react";
import type { Spot } from "../../../core/api/client";
import { setKeys } from "../../../core/designer/operations";
import { chosenOf, leftOut, questionOf, type Question } from "../../../core/designer/questions";
import { spoken, type Schema } from "../../../core/designer/schema";
import { type Path } from "../../../core/document/tree";
import { useDesign, useDesigning } from "../useDesign";
import { DataLook } from "./DataLook";
import { SchemaField } from "./SchemaFields";
import { useValue } from "./useValue";

interface Props {
  schema: Schema;
  path: Path;
  spot: Spot;
  /** Names that have no field here. */
  without?: readonly string[];
}

/**
 * The fields of a record. Where the kind has a question, the question stands in the place of fields that exclude each
 * other, and what its answer needs is there at once. Else: what is required or was set when the form was opened. The
 * rest is behind a button. A field keeps its place while the form is open, whether it gets or loses its value: one that
 * moves would lose the focus, and with it what is typed next.
 */
export function SchemaForm(props: Props) {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const kind = design.steps.get(props.spot.step ?? "")?.kind;
  const at = props.path.lastIndexOf("set");
  const question = at < 0 ? undefined : questionOf(kind, props.path.slice(at + 1).join("."));
  return question ? <AskingForm {...props} question={question} /> : <PlainForm {...props} />;
}

function PlainForm({ schema, path, spot, without = [] }: Props) {
  const [value] = useValue(path);
  const set = (value as Record<string, unknown> | undefined) ?? {};
  const names = Object.keys(schema.properties ?? {}).filter((n) => !without.includes(n));
  const required = schema.required ?? [];
  const [first] = useState(() => {
    const wanted = names.filter((n) => required.includes(n) || n in set);
    return new Set(wanted.length === 0 || names.length - wanted.length <= 1 ? names : wanted);
  });
  const field = useFields({ schema, path, spot });
  return (
    <>
      {names.filter((n) => first.has(n)).map(field)}
      <Rest names={names.filter((n) => !first.has(n))} set={set} field={field} />
    </>
  );
}

/** Makes the field of a name; its key is the same wherever in a form it stands, and whatever the step is called. */
function useFields({ schema, path, spot }: Props, labels?: Question["labels"]) {
  return (name: string): ReactNode => (
    <SchemaField
      key={name}
      name={name}
      label={labels?.[name]}
      schema={schema.properties?.[name] ?? {}}
      path={[...path, name]}
      spot={spot}
      required={schema.required?.includes(name) === true}
    />
  );
}

const none: ReadonlySet<string> = new Set();

/** Fields behind a button. Those are shown that have a value, or had one since the form was opened or folded. */
function Rest({
  names,
  exclusive = none,
  set,
  field,
}: {
  names: readonly string[];
  /** Those that are only shown where they have a value: they belong to another answer. */
  exclusive?: ReadonlySet<string>;
  set: Record<string, unknown>;
  field: (name: string) => ReactNode;
}) {
  const [all, setAll] = useState(false);
  const [touched, setTouched] = useState<ReadonlySet<string>>(new Set());
  const news = names.filter((n) => n in set && !touched.has(n));
  if (news.length > 0) setTouched(new Set([...touched, ...news]));
  const offered = names.filter((n) => !exclusive.has(n));
  const hidden = offered.filter((n) => !touched.has(n));
  const fold = () => {
    if (all) setTouched(new Set(names.filter((n) => n in set)));
    setAll(!all);
  };
  return (
    <>
      {offered.length > 0 && (hidden.length > 0 || all) && (
        <button type="button" className="linkbutton more" aria-expanded={all} onClick={fold}>
          {all ? "Less" : `More: ${hidden.map(spoken).join(", ").toLowerCase()}`}
        </button>
      )}
      <div>{names.filter((n) => touched.has(n) || (all && !exclusive.has(n))).map(field)}</div>
    </>
  );
}

function AskingForm({ schema, path, spot, question }: Props & { question: Question }) {
  const { store, context } = useDesigning();
  const [value] = useValue(path);
  const set = (value as Record<string, unknown> | undefined) ?? {};
  const names = Object.keys(schema.properties ?? {});
  const field = useFields({ schema, path, spot }, question.labels);
  const connection = context.connections.find((c) => c.name === set.connection);
  const told = chosenOf(
    question,
    set,
    question.by === undefined ? undefined : schema.properties?.[question.by]?.default,
    connection?.type,
  );
  // What was chosen holds until the settings tell something else: nothing may be written yet.
  // A form that says nothing yet begins with the first answer.
  const [asked, setAsked] = useState(
    () =>
      told ?? (question.by === undefined && question.byConnection !== true ? question.choices[0]?.name : null) ?? null,
  );
  if (told !== null && told !== "nothing" && told !== asked) setAsked(told);
  const chosen = told !== null && told !== "nothing" ? told : (asked ?? told);
  const there = (fields: readonly string[] | undefined) => (fields ?? []).filter((f) => names.includes(f));
  const before = there(question.before);
  const fields = there(question.choices.find((c) => c.name === chosen)?.fields);
  const after = there(question.after);
  const shown = new Set([...before, ...fields, ...after, question.by ?? ""]);
  const rest = names.filter((n) => !shown.has(n));
  // Fields of other answers are only there while they have a value, so that what excludes each other is seen.
  const others = new Set(question.choices.flatMap((c) => c.fields));
  const choose = (name: string) => {
    setAsked(name);
    const gone = leftOut(question, name).filter((f) => f in set);
    const answer = question.by === undefined ? {} : { [question.by]: name };
    if (gone.length > 0 || question.by !== undefined)
      store.apply(
        setKeys(store.state.design, path, { ...Object.fromEntries(gone.map((f) => [f, undefined])), ...answer }),
      );
  };
  const isOpen = question.by !== undefined && set[question.by] !== undefined && told === null;
  return (
    <>
      {before.map(field)}
      {question.choices.length > 0 && !isOpen && (
        <NativeSelect
          size="xs"
          mt="xs"
          label={path.at(-1) === "set" ? question.ask : undefined}
          aria-label={question.ask}
          data-question
          required
          value={chosen ?? ""}
          data={[
            ...(chosen === null ? [{ value: "", label: "choose" }] : []),
            ...question.choices.map((c) => ({ value: c.name, label: c.label })),
          ]}
          onChange={(e) => choose(e.currentTarget.value)}
        />
      )}
      {question.looks === true && spot.step !== null && <DataLook step={spot.step} path={path} />}
      {isOpen && question.by !== undefined && field(question.by)}
      {fields.map(field)}
      {after.map(field)}
      <Rest key={chosen} names={rest} exclusive={isOpen ? none : others} set={set} field={field} />
    </>
  );
}
