import { TextInput } from "@mantine/core";
import { useState } from "react";
import { planRename } from "../../../core/api/client";
import type { DesignStep } from "../../../core/document/design";
import { applyChanges } from "../../../core/document/edit";
import { inScope } from "../../../core/stepPath";
import { useDesigning } from "../useDesign";

/**
 * The id of a step. A new one is taken once the field is left: at once while only gates name the step, else after the
 * dialog has shown what changes with it.
 */
export function IdField({ step }: { step: DesignStep }) {
  const { store, rename } = useDesigning();
  const [text, setText] = useState(step.id);
  const [refused, setRefused] = useState<string | null>(null);
  const go = async () => {
    const to = text.trim();
    if (to === step.id || to === "") {
      setText(step.id);
      return;
    }
    const source = store.text;
    try {
      const plan = await planRename(store.chain, source, "step", step.scope, step.id, to);
      if (plan.refusal != null) setRefused(plan.refusal);
      else if (source !== store.text) await go();
      else if (plan.places.some((p) => !p.what.includes("gate") && !isOwnKey(p.edit.start, step))) {
        setText(step.id);
        rename("step", step.scope, step.id, to);
      } else
        store.apply({
          text: applyChanges(
            source,
            plan.places.map((p) => ({ from: p.edit.start, to: p.edit.start + p.edit.length, insert: p.edit.text })),
          ),
          select: { steps: [inScope(step.scope, to)], gate: null },
          renamed: true,
        });
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <TextInput
      size="xs"
      mt="xs"
      label="Id"
      value={text}
      error={refused}
      spellCheck={false}
      onChange={(e) => {
        setText(e.currentTarget.value);
        setRefused(null);
      }}
      onBlur={() => void go()}
      onKeyDown={(e) => {
        if (e.key === "Enter") void go();
        if (e.key === "Escape") setText(step.id);
      }}
    />
  );
}

const isOwnKey = (offset: number, step: DesignStep) => offset === step.from;
