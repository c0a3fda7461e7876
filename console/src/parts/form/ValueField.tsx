import {
  ActionIcon,
  Autocomplete,
  JsonInput,
  Switch,
  TagsInput,
  TextInput,
  type AutocompleteProps,
  type TextInputProps,
} from "@mantine/core";
import { useId, useRef, useState } from "react";
import { whenPointerIsUp } from "../../core/designer/whenPointerIsUp";
import { itemType, readTyped } from "../../core/values/typed";

interface Props {
  /** The CEL type of the value. */
  type: string;
  name?: string;
  label: string;
  description?: string;
  required?: boolean;
  /** What was typed, lists and maps as JSON; nothing when no value is given. */
  text: string | undefined;
  change: (text: string | undefined) => void;
  /** What is wrong with it beyond what its type says. */
  error?: string;
  /** Values that are offered. */
  offered?: readonly string[];
  size?: "xs" | "sm";
  /** Whether an empty text is something else than none. */
  emptyCounts?: boolean;
}

/** A field for a value, after its type. What is wrong with it is told once the person has left it. */
export function ValueField({
  type,
  name,
  label,
  description,
  required,
  text,
  change,
  error,
  offered,
  size,
  emptyCounts = true,
}: Props) {
  const [left, setLeft] = useState(false);
  const read = text === undefined ? null : readTyped(type, text);
  const wrong = error ?? (left && read && "wrong" in read ? read.wrong : undefined);
  const shared = {
    name,
    label,
    required,
    error: wrong,
    size,
    mt: "sm" as const,
    onBlur: () => whenPointerIsUp(() => setLeft(true)),
  };
  const said = [description, hintOf(type)].filter(Boolean).join(" · ");
  const item = itemType(type);
  if (type === "bool")
    return (
      <Switch
        mt="sm"
        size={size ?? "sm"}
        label={label}
        description={description}
        error={wrong}
        checked={text === "true"}
        onChange={(e) => change(String(e.currentTarget.checked))}
      />
    );
  if (type === "timestamp") return <MomentField {...shared} said={said} text={text} change={change} />;
  if (item !== null && !item.startsWith("list") && item !== "map" && item !== "any")
    return <ListField {...shared} said={said} text={text} change={change} />;
  if (item !== null || type === "map" || type.startsWith("map<"))
    return (
      <JsonInput
        {...shared}
        description={said}
        autosize
        minRows={2}
        maxRows={10}
        formatOnBlur
        validationError={wrong}
        value={text ?? ""}
        onChange={(value) => change(value === "" ? undefined : value)}
      />
    );
  if (type === "string")
    return (
      <OfferingInput
        {...shared}
        offered={offered}
        description={
          <>
            {said}
            {said !== "" && emptyCounts && (text === "" || text === undefined) && " · "}
            {!emptyCounts ? null : text === "" ? (
              <>
                an empty text is given{" "}
                <button type="button" className="linkbutton" onClick={() => change(undefined)}>
                  give none
                </button>
              </>
            ) : text === undefined ? (
              <button type="button" className="linkbutton" onClick={() => change("")}>
                give an empty text
              </button>
            ) : null}
          </>
        }
        required={required === true && text !== ""}
        value={text ?? ""}
        onChange={(value) => change(value === "" ? undefined : value)}
      />
    );
  return (
    <OfferingInput
      {...shared}
      offered={offered}
      description={said}
      inputMode={type === "int" ? "numeric" : type === "double" || type === "decimal" ? "decimal" : undefined}
      value={text ?? ""}
      onChange={(value) => change(value.trim() === "" ? undefined : value)}
    />
  );
}

/** A field of text, with values to choose from where some are offered. */
function OfferingInput({
  offered = [],
  onChange,
  ...input
}: Omit<TextInputProps, "onChange"> & {
  offered?: readonly string[];
  onChange: (value: string) => void;
  value: string;
}) {
  return offered.length === 0 ? (
    <TextInput {...input} onChange={(e) => onChange(e.currentTarget.value)} />
  ) : (
    <Autocomplete {...(input as AutocompleteProps)} data={[...new Set(offered)]} onChange={onChange} />
  );
}

function hintOf(type: string): string {
  switch (type) {
    case "timestamp":
      return "a day or a time in UTC";
    case "duration":
      return "for example 90s or 1h30m";
    case "map":
      return "JSON";
    default:
      return itemType(type) === null ? "" : "Enter ends an item";
  }
}

interface Shared {
  name?: string;
  label: string;
  required?: boolean;
  error?: string;
  size?: "xs" | "sm";
  mt: "sm";
  onBlur: () => void;
  said: string;
  text: string | undefined;
  change: (text: string | undefined) => void;
}

/** Typed, or chosen from the browser's calendar. */
function MomentField({ said, text, change, ...shared }: Shared) {
  const calendar = useRef<HTMLInputElement>(null);
  const id = useId();
  return (
    <TextInput
      {...shared}
      description={said}
      placeholder="2026-11-22"
      value={text ?? ""}
      onChange={(e) => change(e.currentTarget.value === "" ? undefined : e.currentTarget.value)}
      rightSectionWidth={34}
      rightSection={
        <>
          <ActionIcon
            variant="subtle"
            size="sm"
            aria-label="Open the calendar"
            aria-controls={id}
            onClick={() => calendar.current?.showPicker()}
          >
            ▦
          </ActionIcon>
          <input
            ref={calendar}
            id={id}
            type="date"
            className="nativecalendar"
            tabIndex={-1}
            aria-hidden
            value={/^\d{4}-\d\d-\d\d/.exec(text ?? "")?.[0] ?? ""}
            onChange={(e) => {
              // The time that was typed stays.
              const time = /^\d{4}-\d\d-\d\d(.*)$/.exec(text ?? "")?.[1] ?? "";
              if (e.currentTarget.value !== "") change(e.currentTarget.value + time);
            }}
          />
        </>
      }
    />
  );
}

/** The items of a list as chips; a pasted JSON list gives its items. */
function ListField({ said, text, change, ...shared }: Shared) {
  const items = itemsOf(text);
  return (
    <TagsInput
      {...shared}
      description={said}
      splitChars={[]}
      acceptValueOnBlur
      allowDuplicates
      clearable
      value={items}
      onChange={(next) => {
        // What is written as a JSON list is meant as one.
        const flat = next.flatMap((item) => (/^\s*\[/.test(item) ? (listOf(item) ?? [item]) : [item]));
        change(flat.length === 0 && text === undefined ? undefined : JSON.stringify(flat));
      }}
      onPaste={(e) => {
        const pasted = itemsOf(e.clipboardData.getData("text"));
        if (pasted.length === 0) return;
        e.preventDefault();
        change(JSON.stringify([...items, ...pasted]));
      }}
    />
  );
}

const itemsOf = (text: string | undefined): string[] => listOf(text ?? "[]") ?? [];

function listOf(text: string): string[] | null {
  try {
    const found = JSON.parse(text) as unknown;
    return Array.isArray(found) ? found.map((v) => (typeof v === "string" ? v : JSON.stringify(v))) : null;
  } catch {
    return null;
  }
}
