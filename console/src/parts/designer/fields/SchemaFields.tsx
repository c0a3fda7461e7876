import { ActionIcon, Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { parse } from "yaml";
import { choicesOf, formOf, spoken, type Schema } from "../../../core/designer/schema";
import { setKey } from "../../../core/designer/operations";
import { choiceSentence } from "../../../core/designer/sentences";
import { ColumnPicker } from "./ColumnPicker";
import { ExpressionField } from "./ExpressionField";
import { useDesigning } from "../useDesign";
import { LookupPicker } from "./LookupPicker";
import { PlainField } from "./PlainField";
import { SchemaForm } from "./SchemaForm";
import { useValue } from "./useValue";
import { PickField, AttachmentField, TextOrFile, Texts } from "./TextFields";
import { type FieldProps, doc } from "./fieldProps";

/** One field, after its schema. */
export function SchemaField(props: FieldProps) {
  const { schema, path, spot, name, required = false, condition = false } = props;
  const label = props.label ?? spoken(name);
  const [value, set] = useValue(path);
  const text =
    value === undefined || value === null
      ? ""
      : typeof value === "object"
        ? JSON.stringify(value)
        : String(value as string | number | boolean);
  const description = doc(schema);
  const looks = schema["x-pick"] === "table" || schema["x-pick"] === "path" ? schema["x-pick"] : undefined;
  const plain = { label, description, value: text, required, path };
  switch (formOf(schema)) {
    case "bool":
      if (typeof value === "string")
        return <ExpressionField label={label} value={text} spot={spot} template commit={set} />;
      return (
        <Checkbox
          size="xs"
          mt="sm"
          label={label}
          description={description}
          checked={(value ?? schema.default) === true}
          onChange={(e) =>
            set(e.currentTarget.checked === (schema.default === true) ? undefined : e.currentTarget.checked)
          }
        />
      );
    case "choice":
      if (!Array.isArray(value)) {
        return (
          <NativeSelect
            size="xs"
            mt="xs"
            label={label}
            description={description}
            required={required}
            value={text === "" ? String((schema.default as string | undefined) ?? "") : text}
            data={[
              ...(schema.default === undefined ? [{ value: "", label: "" }] : []),
              ...choicesOf(schema).map((c) => ({ value: c, label: choiceSentence(name, c) })),
            ]}
            onChange={(e) => set(e.currentTarget.value === schema.default ? undefined : e.currentTarget.value)}
          />
        );
      }
      return <PlainField {...plain} commit={(t) => set(read(t))} />;
    case "number":
      return (
        <PlainField
          {...plain}
          placeholder={placeholderOf(schema)}
          commit={(t) => set(t.trim() === "" ? undefined : Number.isNaN(Number(t)) ? t : Number(t))}
          narrow
        />
      );
    case "duration":
      return (
        <PlainField
          {...plain}
          placeholder={placeholderOf(schema) ?? "for example 5m"}
          commit={(t) => set(t.trim())}
          narrow
        />
      );
    case "expression":
      return <ExpressionField {...plain} spot={spot} builder={condition} commit={(t) => set(bare(t))} />;
    case "row-expression":
      // What it sees is a row of the source, which nobody has here; the check reads it.
      return <PlainField {...plain} placeholder="row.column" commit={(t) => set(bare(t))} />;
    case "attachment":
      return <AttachmentField {...props} label={label} />;
    case "text-or-file":
      return <TextOrFile {...props} label={label} />;
    case "texts":
      return <Texts label={label} description={description} value={value} set={set} required={required} spot={spot} />;
    case "map":
      return <MapField {...props} label={label} />;
    case "record":
      return (
        <fieldset className="record">
          <legend>
            {label}
            {required && (
              <span className="required" aria-hidden>
                {" "}
                *
              </span>
            )}
          </legend>
          <SchemaForm schema={schema} path={path} spot={spot} />
        </fieldset>
      );
    case "any":
    case "list":
      return <PlainField {...plain} placeholder={placeholderOf(schema)} commit={(t) => set(read(t))} />;
    case "choice-or-number":
      return <PlainField {...plain} placeholder={placeholderOf(schema)} commit={(t) => set(read(t))} narrow />;
    default:
      if (schema["x-pick"] !== undefined && looks === undefined) return <PickField {...props} label={label} />;
      return (
        <ExpressionField
          {...plain}
          spot={spot}
          template
          multiline={text.includes("\n") || name === "shell"}
          placeholder={placeholderOf(schema)}
          beside={
            looks &&
            ((written, write) => <LookupPicker path={path} what={looks} label={label} text={written} write={write} />)
          }
          commit={set}
        />
      );
  }
}

const placeholderOf = (schema: Schema) =>
  schema.default === undefined || schema.default === null
    ? undefined
    : typeof schema.default === "object"
      ? undefined
      : String(schema.default as string | number);

// An expression that is a number or true stands without quotes either way.
const bare = (text: string): unknown =>
  text.trim() === ""
    ? undefined
    : /^-?\d+(\.\d+)?$|^true$|^false$/.test(text.trim())
      ? (JSON.parse(text.trim()) as unknown)
      : text;

/** What was typed as YAML: lists, mappings, numbers; what is none is text. */
function read(text: string): unknown {
  if (text.trim() === "") return undefined;
  try {
    return parse(text) as unknown;
  } catch {
    return text;
  }
}

/** Names with values; a name is added in the last row. */
export function MapField({
  schema,
  path,
  spot,
  label,
  required,
  closed = false,
}: FieldProps & {
  label: string;
  /** Whether names are added elsewhere. */
  closed?: boolean;
}) {
  const { store } = useDesigning();
  const [value, set] = useValue(path);
  // One entry at a time: the others keep how they are written, and their comments.
  const put = (key: string, entry: unknown) =>
    entries.length === 0 ? set({ [key]: entry }) : store.apply(setKey(store.state.design, [...path, key], entry), true);
  const remove = (key: string) =>
    entries.length === 1 ? set(undefined) : store.apply(setKey(store.state.design, [...path, key], undefined), true);
  const [name, setName] = useState("");
  const inner = typeof schema.additionalProperties === "object" ? schema.additionalProperties : {};
  const entries = Object.keys((value as Record<string, unknown> | undefined) ?? {});
  const add = () => {
    if (name === "" || entries.includes(name)) return;
    put(name, formOf(inner) === "record" ? {} : null);
    setName("");
  };
  return (
    <fieldset className="record">
      <legend>
        {label}
        {required === true && (
          <span className="required" aria-hidden>
            {" "}
            *
          </span>
        )}
      </legend>
      {doc(schema) !== undefined && <div className="hint soft">{doc(schema)}</div>}
      {path.at(-1) === "columns" && spot.step !== null && (
        <ColumnPicker
          step={spot.step}
          chosen={entries}
          toggle={(c) => (entries.includes(c) ? remove(c) : put(c, {}))}
        />
      )}
      {entries.map((key) => (
        <div className="maprow" key={key}>
          <div className="mapvalue">
            <SchemaField name={key} label={key} schema={inner} path={[...path, key]} spot={spot} />
          </div>
          <ActionIcon variant="subtle" aria-label={`Remove ${key}`} onClick={() => remove(key)}>
            ×
          </ActionIcon>
        </div>
      ))}
      {!closed && (
        <div className="maprow">
          <TextInput
            size="xs"
            aria-label={`New name in ${label}`}
            placeholder="name"
            value={name}
            onChange={(e) => setName(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") add();
            }}
          />
          <Button size="compact-xs" variant="default" disabled={name === "" || entries.includes(name)} onClick={add}>
            Add
          </Button>
        </div>
      )}
    </fieldset>
  );
}
