import { ActionIcon, NativeSelect } from "@mantine/core";
import { without, type TypedText } from "../../core/values/typed";
import { AddName } from "./AddName";
import { ValueField } from "./ValueField";

export type GivenOutputs = Readonly<Record<string, TypedText>>;

/** Outputs of a step that are given by hand: those that its kind gives are offered, with their types. */
export function OutputFields({
  known,
  given,
  change,
}: {
  /** What the kind gives; `*` stands for any name. */
  known: readonly { name: string; type: string }[];
  given: GivenOutputs;
  change: (given: GivenOutputs) => void;
}) {
  const open = known.length === 0 || known.some((k) => k.name === "*");
  const left = known.filter((k) => k.name !== "*" && !(k.name in given));
  const add = (output: string, type: string) => change({ ...given, [output]: { type, text: "" } });
  return (
    <div className="outputfields">
      {Object.entries(given).map(([output, { type, text }]) => (
        <div className="outputrow" key={output}>
          <ValueField
            type={type}
            label={output}
            description={type === "any" ? "any value; JSON for lists and maps" : type}
            size="xs"
            text={text}
            change={(next) => change({ ...given, [output]: { type, text: next ?? "" } })}
          />
          <ActionIcon
            size="sm"
            variant="subtle"
            aria-label={`Leave out ${output}`}
            onClick={() => change(without(given, output))}
          >
            ×
          </ActionIcon>
        </div>
      ))}
      {left.length > 0 && (
        <NativeSelect
          mt="xs"
          size="xs"
          aria-label="Give an output"
          value=""
          data={[
            { value: "", label: "give an output…" },
            ...left.map((k) => ({ value: k.name, label: `${k.name}: ${k.type}` })),
          ]}
          onChange={(e) => {
            const chosen = left.find((k) => k.name === e.currentTarget.value);
            if (chosen) add(chosen.name, chosen.type);
          }}
        />
      )}
      {open && (
        <AddName
          label="Name of another output"
          placeholder="another output"
          fits={(name) => /^[A-Za-z]\w*$/.test(name) && !(name in given)}
          add={(name) => add(name, known.find((k) => k.name === name)?.type ?? "any")}
        />
      )}
    </div>
  );
}
