import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { applyChanges } from "../../../core/document/edit";
import { renameQuery } from "../../../queries/design";
import { BrokenUses } from "../../chains/BrokenUses";
import { FormDialog } from "../../page/FormDialog";
import { useCanvasAfterwards } from "../canvas/focus";
import { useDesign, useDesigning } from "../useDesign";

/** Renames with everything that refers to it, after showing what that is. */
export function RenameDialog({
  what,
  scope,
  name,
  to: wanted,
  close,
}: {
  what: string;
  scope: string;
  name: string;
  /** The new name that was asked for already. */
  to?: string;
  close: () => void;
}) {
  const { store } = useDesigning();
  const [to, setTo] = useState(wanted ?? name);
  useCanvasAfterwards();
  const source = useDesign(store).design.file.text;
  const { data, isPlaceholderData } = useQuery(renameQuery(store.chain, source, what, scope, name, to));
  const places = to === name ? [] : (data?.places ?? []);
  // The plan must be that of this very name and text.
  const ready =
    to !== name && data !== undefined && !isPlaceholderData && data.refusal == null && data.places.length > 0;
  const text = ready
    ? applyChanges(
        source,
        data.places.map((p) => ({ from: p.edit.start, to: p.edit.start + p.edit.length, insert: p.edit.text })),
      )
    : source;
  const go = () => {
    if (!ready) return;
    const address = scope === "" ? to : `${scope}/${to}`;
    store.apply({ text, select: what === "step" ? { steps: [address], gate: null } : undefined });
    close();
  };
  return (
    <FormDialog
      title={`Rename the ${what} ${name}`}
      submitLabel="Rename"
      submit={() => Promise.resolve(go())}
      close={close}
      disabled={!ready}
      size="lg"
      returnFocus={false}
    >
      <TextInput
        data-autofocus
        label="New name"
        value={to}
        onChange={(e) => setTo(e.currentTarget.value)}
        error={to === name ? null : data?.refusal}
        onFocus={(e) => e.currentTarget.select()}
      />
      {ready && what === "parameter" && (
        <BrokenUses chain={store.chain} source={text} action="Once it is released, this" />
      )}
      {places.length > 0 && data?.refusal == null && (
        <>
          <p className="small">
            {places.length === 1 ? "One place changes:" : `${String(places.length)} places change:`}
          </p>
          <ul className="renames" aria-label="What changes">
            {places.map((p, i) => (
              <li key={i}>
                <span className="soft small">
                  line {p.line}, {p.what}
                </span>
                <code>{p.after}</code>
              </li>
            ))}
          </ul>
        </>
      )}
    </FormDialog>
  );
}
