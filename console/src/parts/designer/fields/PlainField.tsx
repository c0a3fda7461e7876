import { Textarea, TextInput } from "@mantine/core";
import { useField } from "./useField";

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
