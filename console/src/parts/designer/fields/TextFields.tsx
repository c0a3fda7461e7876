import { ActionIcon, NativeSelect } from "@mantine/core";
import type { Spot } from "../../../core/api/client";
import { ExpressionField } from "./ExpressionField";
import { useDesigning } from "../useDesign";
import { useValue } from "./useValue";
import { type FieldProps, doc } from "./fieldProps";

/** A choice among names; one that is written in the file and not known stays a choice. */
function NameSelect({
  names,
  unknown,
  schema,
  path,
  label,
  required,
}: Omit<FieldProps, "spot"> & {
  label: string;
  names: { value: string; label: string }[];
  /** Says what is wrong with a name that is not known; without it such a name is as good as the others. */
  unknown?: (name: string) => string;
}) {
  const [value, set] = useValue(path);
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
      error={known ? undefined : unknown?.(text)}
      data={[{ value: "", label: "" }, ...(known ? [] : [{ value: text, label: text }]), ...names]}
      onChange={(e) => set(e.currentTarget.value)}
    />
  );
}

/** A name of something in the chain's workspace: a connection, a lane, another chain. */
export function PickField(props: FieldProps & { label: string }) {
  const { context } = useDesigning();
  const pick = props.schema["x-pick"];
  const names =
    pick === "connection"
      ? context.connections
          .filter((c) => props.schema["x-pick-types"]?.includes(c.type) ?? true)
          .map((c) => ({ value: c.name, label: `${c.name} (${c.type})` }))
      : pick === "lane"
        ? context.lanes.map((l) => ({ value: l, label: l }))
        : context.chains.map((c) => ({ value: c.name, label: c.name }));
  return (
    <NameSelect
      {...props}
      names={names}
      unknown={(name) =>
        pick === "connection" && context.connections.some((c) => c.name === name)
          ? `“${name}” is of another type`
          : `there is no “${name}” here`
      }
    />
  );
}

/** The name of an attachment. */
export function AttachmentField(props: FieldProps & { label: string }) {
  const { context } = useDesigning();
  return <NameSelect {...props} names={context.files.map((f) => ({ value: f, label: f }))} />;
}

/** Text in place, or the name of an attachment. */
export function TextOrFile({ schema, path, spot, label, required }: FieldProps & { label: string }) {
  const { context } = useDesigning();
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
          ...context.files.map((f) => ({ value: f, label: `the attachment ${f}` })),
          ...(file !== null && !context.files.includes(file) ? [file] : []),
        ]}
        onChange={(e) => set(e.currentTarget.value === "" ? " " : { file: e.currentTarget.value })}
      />
      {file === null && (
        <ExpressionField
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
export function Texts({
  label,
  description,
  value,
  set,
  required,
  spot,
}: {
  label: string;
  description?: string;
  value: unknown;
  set: (value: unknown) => void;
  required: boolean;
  spot: Spot;
}) {
  const items = Array.isArray(value)
    ? value.map((v) => String(v as string))
    : value === undefined || value === null
      ? []
      : null;
  if (items === null)
    return (
      <ExpressionField
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
