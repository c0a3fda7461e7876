import { Textarea } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../../app/act";
import { makeRelease } from "../../../core/api/client";
import type { DesignState } from "../../../core/designer/DesignStore";
import { releasesQuery, useChainCommands } from "../../../queries/chains";
import { comparisonQuery } from "../../../queries/design";
import { BrokenUses } from "../../chains/BrokenUses";
import { ErrorBox } from "../../page/ErrorBox";
import { FormDialog } from "../../page/FormDialog";
import { Changes } from "../panels/Changes";
import { useDesigning } from "../useDesign";

/** Makes the draft the next release, after showing what it changes. */
export function ReleaseDialog({ state, close, done }: { state: DesignState; close: () => void; done: () => void }) {
  const { store } = useDesigning();
  const { released } = useChainCommands();
  const [note, setNote] = useState("");
  const { data: releases } = useQuery(releasesQuery(store.chain));
  const latest = releases?.[0];
  const { data: changes } = useQuery(
    comparisonQuery(latest ? { chain: store.chain, release: latest.number } : null, { text: store.text }),
  );
  const errors = state.problems.filter((p) => p.severity === "error").length;
  const warnings = state.problems.filter((p) => p.severity === "warning").length;
  const release = async () => {
    const made = await act("It was not released", async () => {
      // A release is made of a draft, also when it says the same as before.
      if (!(await store.save()) || store.state.version === 0)
        throw new Error(
          store.state.version === 0
            ? "Nothing has changed since the latest release."
            : "The draft could not be saved first.",
        );
      return makeRelease(store.chain, store.state.version, note);
    });
    if (!made) return;
    store.released();
    await released(store.chain);
    done();
    close();
  };
  return (
    <FormDialog
      title={`Release ${store.chain}${latest ? `, number ${String(latest.number + 1)}` : " for the first time"}`}
      submitLabel="Release"
      submit={release}
      close={close}
      disabled={errors > 0 || !state.checked}
      size="lg"
    >
      {errors > 0 && (
        <ErrorBox>
          {errors === 1 ? "One error keeps" : `${String(errors)} errors keep`} it from being released; see Problems.
        </ErrorBox>
      )}
      {warnings > 0 && (
        <p className="small">
          △ {warnings === 1 ? "There is one warning" : `There are ${String(warnings)} warnings`}; see Problems.
        </p>
      )}
      {errors === 0 && <BrokenUses chain={store.chain} source={store.text} action="This release" />}
      <Textarea
        data-autofocus
        label="What is it for?"
        autosize
        minRows={2}
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
      />
      {latest && changes && (
        <>
          <h3>What changes from release {latest.number}</h3>
          <Changes changes={changes} />
        </>
      )}
    </FormDialog>
  );
}
