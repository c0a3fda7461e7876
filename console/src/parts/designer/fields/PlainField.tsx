import { Textarea, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Path } from "../../../core/document/tree";
import { whenPointerIsUp } from "../../../core/designer/whenPointerIsUp";
import { useField } from "./useField";

import { useProblemAt } from "./useProblemAt";

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
  path,
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
  /** Where its value stands in the draft: what the check says of it is told at the field. */
  path?: Path;
}) {
  const field = useField(value, commit);
  const [inside, setInside] = useState(false);
  const [left, setLeft] = useState(false);
  const problem = useProblemAt(path);
  const missing = required === true && left && field.value.trim() === "" ? "It needs a value." : undefined;
  const shared = {
    size: "xs" as const,
    mt: "xs" as const,
    label,
    description,
    required,
    placeholder,
    // Nobody is told of a mistake before having left the field.
    error: error ?? (inside ? undefined : (problem ?? missing)),
    value: field.value,
    onFocus: () => setInside(true),
    onBlur: () => {
      // What is told takes room: a button must not move away under the pointer that presses it.
      whenPointerIsUp(() => {
        setInside(false);
        setLeft(true);
      });
      field.onBlur();
    },
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
