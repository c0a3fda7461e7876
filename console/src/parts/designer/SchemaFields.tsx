import { ActionIcon, Button, Checkbox, Collapse, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useState, type ReactNode } from "react";
import { parse } from "yaml";
import type { Spot } from "../../core/api/client";
import { choicesOf, formOf, spoken, type Schema } from "../../core/designer/schema";
import { setKey } from "../../core/designer/operations";
import { at, plain, type Path } from "../../core/document/tree";
import { ColumnPicker } from "./ColumnPicker";
import { ExpressionField } from "./ExpressionField";
import { useDesign, useDesigning } from "./useDesign";
import { useField } from "./useField";

/** Reads and sets what stands at a path of the draft. */
export function useValue(path: Path): [unknown, (value: unknown) => void] {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const value = plain(at(design.file.root, path)) ?? undefined;
  return [value, (next) => store.apply(setKey(store.state.design, path, next === "" ? undefined : next), true)];
}

interface FieldProps {
  name: string;
  schema: Schema;
  path: Path;
  spot: Spot;
  required?: boolean;
  label?: string;
  /** Whether an expression can be put together from comparisons. */
  condition?: boolean;
}

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
  switch (formOf(schema)) {
    case "bool":
      if (typeof value === "string")
        return <ExpressionField key={String(path)} label={label} value={text} spot={spot} template commit={set} />;
      return (
        <Checkbox
          size="md"
          mt="xs"
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
            data={[...(schema.default === undefined ? [{ value: "", label: "" }] : []), ...choicesOf(schema)]}
            onChange={(e) => set(e.currentTarget.value === schema.default ? undefined : e.currentTarget.value)}
          />
        );
      }
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          commit={(t) => set(read(t))}
          required={required}
        />
      );
    case "number":
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          required={required}
          placeholder={placeholderOf(schema)}
          commit={(t) => set(t.trim() === "" ? undefined : Number.isNaN(Number(t)) ? t : Number(t))}
          narrow
        />
      );
    case "duration":
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          required={required}
          placeholder={placeholderOf(schema) ?? "for example 5m"}
          commit={(t) => set(t.trim())}
          narrow
        />
      );
    case "expression":
      return (
        <ExpressionField
          key={String(path)}
          label={label}
          description={description}
          value={text}
          spot={spot}
          required={required}
          builder={condition}
          commit={(t) => set(bare(t))}
        />
      );
    case "row-expression":
      // What it sees is a row of the source, which nobody has here; the check reads it.
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          required={required}
          placeholder="row.column"
          commit={(t) => set(bare(t))}
        />
      );
    case "attachment":
      return <AttachmentField {...props} label={label} />;
    case "text-or-file":
      return <TextOrFile {...props} label={label} />;
    case "texts":
      return (
        <Texts
          label={label}
          description={description}
          value={value}
          set={set}
          required={required}
          spot={spot}
          path={path}
        />
      );
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
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          required={required}
          placeholder={placeholderOf(schema)}
          commit={(t) => set(read(t))}
        />
      );
    case "choice-or-number":
      return (
        <PlainField
          label={label}
          description={description}
          value={text}
          placeholder={placeholderOf(schema)}
          commit={(t) => set(read(t))}
          narrow
        />
      );
    default:
      if (schema["x-pick"] !== undefined) return <PickField {...props} label={label} />;
      return (
        <ExpressionField
          key={String(path)}
          label={label}
          description={description}
          value={text}
          spot={spot}
          template
          required={required}
          multiline={text.includes("\n") || name === "shell"}
          placeholder={placeholderOf(schema)}
          commit={set}
        />
      );
  }
}

const doc = (schema: Schema) => schema.description?.replaceAll("`", "");
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

/** A field of plain text. */
export function PlainField({
  label,
  description,
  value,
  commit,
  required,
  placeholder,
  narrow,
  error,
  multiline,
}: {
  label: string;
  description?: string;
  value: string;
  commit: (text: string) => void;
  required?: boolean;
  placeholder?: string;
  narrow?: boolean;
  error?: string;
  multiline?: boolean;
}) {
  const field = useField(value, commit);
  const shared = {
    size: "xs" as const,
    mt: "xs" as const,
    label,
    description,
    required,
    placeholder,
    error,
    value: field.value,
    onBlur: field.onBlur,
  };
  if (multiline)
    return <Textarea {...shared} autosize minRows={2} onChange={(e) => field.onChange(e.currentTarget.value)} />;
  return (
    <TextInput
      {...shared}
      style={narrow ? { maxWidth: 220 } : undefined}
      onChange={(e) => field.onChange(e.currentTarget.value)}
      onKeyDown={(e) => {
        if (e.key === "Enter") field.flush();
      }}
    />
  );
}

/** A name of something beside the chain: a connection, a lane, another chain. */
function PickField({ schema, path, label, required }: FieldProps & { label: string }) {
  const { beside } = useDesigning();
  const [value, set] = useValue(path);
  const pick = schema["x-pick"];
  const names =
    pick === "connection"
      ? beside.connections.map((c) => ({ value: c.name, label: `${c.name} (${c.type})` }))
      : pick === "lane"
        ? beside.lanes.map((l) => ({ value: l, label: l }))
        : beside.chains.map((c) => ({ value: c.name, label: c.name }));
  const text = value === undefined || value === null ? "" : String(value as string);
  const known = text === "" || names.some((n) => n.value === text);
  return (
    <NativeSelect
      size="xs"
      mt="xs"
      label={label}
      description={doc(schema)}
      required={required}
      value={text}
      error={known ? undefined : `there is no “${text}” here`}
      data={[{ value: "", label: "" }, ...(known ? [] : [{ value: text, label: text }]), ...names]}
      onChange={(e) => set(e.currentTarget.value)}
    />
  );
}

/** The name of an attachment. */
function AttachmentField({ schema, path, label, required }: FieldProps & { label: string }) {
  const { beside } = useDesigning();
  const [value, set] = useValue(path);
  const text = value === undefined || value === null ? "" : String(value as string);
  return (
    <NativeSelect
      size="xs"
      mt="xs"
      label={label}
      description={doc(schema)}
      required={required}
      value={text}
      data={["", ...beside.files, ...(text === "" || beside.files.includes(text) ? [] : [text])]}
      onChange={(e) => set(e.currentTarget.value)}
    />
  );
}

/** Text in place, or the name of an attachment. */
function TextOrFile({ schema, path, spot, label, required }: FieldProps & { label: string }) {
  const { beside } = useDesigning();
  const [value, set] = useValue(path);
  const file = typeof value === "object" && value !== null ? String((value as { file?: unknown }).file ?? "") : null;
  return (
    <>
      <NativeSelect
        size="xs"
        mt="xs"
        label={`${label} from`}
        value={file === null ? "" : file}
        data={[
          { value: "", label: "written here" },
          ...beside.files.map((f) => ({ value: f, label: `the attachment ${f}` })),
          ...(file !== null && !beside.files.includes(file) ? [file] : []),
        ]}
        onChange={(e) => set(e.currentTarget.value === "" ? " " : { file: e.currentTarget.value })}
      />
      {file === null && (
        <ExpressionField
          key={String(path)}
          label={label}
          description={doc(schema)}
          value={String((value as string | undefined) ?? "").trimStart()}
          spot={spot}
          template
          multiline
          required={required}
          commit={set}
        />
      )}
    </>
  );
}

/** A list of texts, a field each. */
function Texts({
  label,
  description,
  value,
  set,
  required,
  spot,
  path,
}: {
  label: string;
  description?: string;
  value: unknown;
  set: (value: unknown) => void;
  required: boolean;
  spot: Spot;
  path: Path;
}) {
  const items = Array.isArray(value)
    ? value.map((v) => String(v as string))
    : value === undefined || value === null
      ? []
      : null;
  if (items === null)
    return (
      <ExpressionField
        key={String(path)}
        label={label}
        description={description}
        value={String(value as string)}
        spot={spot}
        template
        required={required}
        commit={set}
      />
    );
  return (
    <div className="texts" role="group" aria-label={label}>
      <div className="labelrow">
        <span className="label">
          {label}
          {required && (
            <span className="required" aria-hidden>
              {" "}
              *
            </span>
          )}
        </span>
        <button type="button" className="linkbutton" onClick={() => set([...items, ""])}>
          Add one
        </button>
      </div>
      {description !== undefined && items.length === 0 && <div className="hint soft">{description}</div>}
      {items.map((item, i) => (
        <div className="textsrow" key={`${String(i)}-${String(items.length)}`}>
          <ExpressionField
            label={`${label} ${String(i + 1)}`}
            value={item}
            spot={spot}
            template
            commit={(t) => set(items.map((x, j) => (j === i ? t : x)))}
          />
          <ActionIcon
            variant="subtle"
            aria-label={`Remove ${label} ${String(i + 1)}`}
            onClick={() => set(items.length === 1 ? undefined : items.filter((_, j) => j !== i))}
          >
            ×
          </ActionIcon>
        </div>
      ))}
    </div>
  );
}

/** Names with values; a name is added in the last row. */
export function MapField({ schema, path, spot, label, required }: FieldProps & { label: string }) {
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
    </fieldset>
  );
}

/** The fields of a record: what is required or set, and the rest behind a button. */
export function SchemaForm({
  schema,
  path,
  spot,
  without = [],
}: {
  schema: Schema;
  path: Path;
  spot: Spot;
  without?: string[];
}) {
  const [value] = useValue(path);
  const [all, setAll] = useState(false);
  const set = (value as Record<string, unknown> | undefined) ?? {};
  const names = Object.keys(schema.properties ?? {}).filter((n) => !without.includes(n));
  const required = schema.required ?? [];
  const first = names.filter((n) => required.includes(n) || n in set);
  const shown = first.length === 0 || names.length - first.length <= 1 ? names : first;
  const more = names.filter((n) => !shown.includes(n));
  const field = (name: string): ReactNode => (
    <SchemaField
      key={`${path.join("/")}/${name}`}
      name={name}
      schema={schema.properties?.[name] ?? {}}
      path={[...path, name]}
      spot={spot}
      required={required.includes(name)}
    />
  );
  return (
    <>
      {shown.map(field)}
      {more.length > 0 && (
        <>
          <button type="button" className="linkbutton more" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Less" : `More: ${more.map(spoken).join(", ").toLowerCase()}`}
          </button>
          <Collapse expanded={all}>{all && more.map(field)}</Collapse>
        </>
      )}
    </>
  );
}
