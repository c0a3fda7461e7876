import { Button, TextInput } from "@mantine/core";
import { useState } from "react";

/** A name for something new: added by the button, or by Enter; also within a form that does something else. */
export function AddName({
  label,
  placeholder,
  button = "Add",
  fits,
  add,
}: {
  label: string;
  placeholder: string;
  button?: string;
  /** Whether there can be something of that name. */
  fits: (name: string) => boolean;
  add: (name: string) => void;
}) {
  const [name, setName] = useState("");
  const isFit = fits(name);
  const take = () => {
    if (!isFit) return;
    add(name);
    setName("");
  };
  return (
    <div className="maprow">
      <TextInput
        size="xs"
        aria-label={label}
        placeholder={placeholder}
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter") return;
          e.preventDefault();
          take();
        }}
      />
      <Button size="compact-xs" variant="default" disabled={!isFit} onClick={take}>
        {button}
      </Button>
    </div>
  );
}
