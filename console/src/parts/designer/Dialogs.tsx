import { Button, Group, Modal, Textarea, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { act } from "../../app/act";
import { compareSources, getDraft, getRelease, listReleases, makeRelease, planRename } from "../../core/api/client";
import type { KindInfo } from "../../core/api/types";
import { whyNoGate } from "../../core/designer/operations";
import type { DesignState } from "../../core/designer/DesignStore";
import { applyChanges } from "../../core/document/edit";
import type { Design, DesignStep } from "../../core/document/design";
import { clock } from "../../core/format";
import { Changes } from "./Changes";
import { useDesign, useDesigning } from "./useDesign";
import { Chooser } from "./Chooser";

export interface Item {
  key: string;
  name: string;
  about: string;
}

/** A dialog that was opened from the canvas gives the keyboard back to it. */
export function useCanvasAfterwards() {
  useEffect(() => () => void requestAnimationFrame(focusCanvas), []);
}

export const focusCanvas = () => (document.querySelector(".designcanvas") as HTMLElement | null)?.focus();

export function AddDialog({
  kinds,
  after,
  add,
  close,
}: {
  kinds: KindInfo[];
  after: string | null;
  add: (kind: string) => void;
  close: () => void;
}) {
  return (
    <Chooser
      title={after === null ? "Add a step" : `Add a step behind ${after}`}
      label="Kind of step"
      items={kinds.map((k) => ({ key: k.name, name: k.name, about: k.doc }))}
      choose={add}
      close={close}
    />
  );
}

const itemOf = (s: DesignStep): Item => ({ key: s.address, name: s.title, about: `${s.kind}, ${s.address}` });

export function GateDialog({
  design,
  from,
  draw,
  close,
}: {
  design: Design;
  from: string;
  draw: (to: string) => void;
  close: () => void;
}) {
  const steps = (design.scopes.get(design.steps.get(from)?.scope ?? "")?.steps ?? []).filter(
    (s) => whyNoGate(design, from, s.address) === null,
  );
  return (
    <Chooser
      title={`Draw a gate from ${from}`}
      label="To which step"
      items={steps.map(itemOf)}
      choose={draw}
      close={close}
    />
  );
}

export function FindDialog({
  design,
  go,
  close,
}: {
  design: Design;
  go: (address: string) => void;
  close: () => void;
}) {
  return (
    <Chooser
      title="Find a step"
      label="Its title, id or kind"
      items={[...design.steps.values()].map(itemOf)}
      choose={go}
      close={close}
    />
  );
}

/** Renames with everything that refers to it, after showing what that is. */
export function RenameDialog({
  what,
  scope,
  name,
  close,
}: {
  what: string;
  scope: string;
  name: string;
  close: () => void;
}) {
  const { store } = useDesigning();
  const [to, setTo] = useState(name);
  useCanvasAfterwards();
  const source = useDesign(store).design.file.text;
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["rename", what, scope, name, to, source],
    queryFn: () => planRename(store.chain, source, what, scope, name, to),
    enabled: to !== name && to !== "",
    gcTime: 0,
    placeholderData: (b) => b,
  });
  const places = to === name ? [] : (data?.places ?? []);
  // The plan must be that of this very name and text.
  const ready =
    to !== name && data !== undefined && !isPlaceholderData && data.refusal == null && data.places.length > 0;
  const go = () => {
    if (!ready) return;
    const text = applyChanges(
      source,
      data.places.map((p) => ({ from: p.edit.start, to: p.edit.start + p.edit.length, insert: p.edit.text })),
    );
    const address = scope === "" ? to : `${scope}/${to}`;
    store.apply({ text, select: what === "step" ? { steps: [address], gate: null } : undefined });
    close();
  };
  return (
    <Modal
      opened
      onClose={close}
      title={`Rename the ${what} ${name}`}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
      returnFocus={false}
      transitionProps={{ duration: 0 }}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          go();
        }}
      >
        <TextInput
          data-autofocus
          label="New name"
          value={to}
          onChange={(e) => setTo(e.currentTarget.value)}
          error={to === name ? null : data?.refusal}
          onFocus={(e) => e.currentTarget.select()}
        />
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
        <Group mt="md" justify="flex-end">
          <Button variant="default" onClick={close}>
            Cancel
          </Button>
          <Button type="submit" disabled={!ready}>
            Rename
          </Button>
        </Group>
      </form>
    </Modal>
  );
}

/** Makes the draft the next release, after showing what it changes. */
export function ReleaseDialog({ state, close, done }: { state: DesignState; close: () => void; done: () => void }) {
  const { store } = useDesigning();
  const queries = useQueryClient();
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const { data: releases } = useQuery({
    queryKey: ["releases", store.chain, state.version],
    queryFn: () => listReleases(store.chain),
  });
  const latest = releases?.[0];
  const { data: changes } = useQuery({
    queryKey: ["comparison", store.chain, latest?.number, store.text],
    queryFn: async () => compareSources((await getRelease(store.chain, latest?.number ?? 0)).source, store.text),
    enabled: latest !== undefined,
    gcTime: 0,
  });
  const errors = state.problems.filter((p) => p.severity === "error").length;
  const warnings = state.problems.filter((p) => p.severity === "warning").length;
  const release = async () => {
    setBusy(true);
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
    setBusy(false);
    if (!made) return;
    store.released();
    await queries.invalidateQueries({ queryKey: ["releases", store.chain] });
    await queries.invalidateQueries({ queryKey: ["chains"] });
    await queries.invalidateQueries({ queryKey: ["chain", store.chain] });
    done();
    close();
  };
  return (
    <Modal
      opened
      onClose={close}
      title={`Release ${store.chain}${latest ? `, number ${String(latest.number + 1)}` : " for the first time"}`}
      size="lg"
      closeButtonProps={{ "aria-label": "Close" }}
      transitionProps={{ duration: 0 }}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void release();
        }}
      >
        {errors > 0 && (
          <div className="errorbox">
            {errors === 1 ? "One error keeps" : `${String(errors)} errors keep`} it from being released; see Problems.
          </div>
        )}
        {warnings > 0 && (
          <p className="small">
            △ {warnings === 1 ? "There is one warning" : `There are ${String(warnings)} warnings`}; see Problems.
          </p>
        )}
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
        <Group mt="md" justify="flex-end">
          <Button variant="default" onClick={close}>
            Cancel
          </Button>
          <Button type="submit" loading={busy} disabled={errors > 0 || !state.checked}>
            Release
          </Button>
        </Group>
      </form>
    </Modal>
  );
}

/** Somebody else has saved the draft meanwhile: both versions are there, and a person decides. */
export function ConflictDialog({ state }: { state: DesignState }) {
  const { store } = useDesigning();
  const { theirs } = state;
  const { data: changes } = useQuery({
    queryKey: ["conflict", theirs?.version, store.text],
    queryFn: () => compareSources(theirs?.source ?? "", store.text),
    enabled: theirs !== null,
    gcTime: 0,
  });
  if (!theirs) return null;
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title="Somebody else has changed this draft"
      size="lg"
      transitionProps={{ duration: 0 }}
    >
      <p>
        {theirs.author} saved version {theirs.version} at {clock(theirs.saved)}, while you had changes of your own.
        Nothing is lost: both versions are kept, whichever you choose.
      </p>
      <h3>From theirs to yours</h3>
      {changes && <Changes changes={changes} />}
      <Group mt="md" justify="flex-end">
        <Button
          variant="default"
          onClick={() => void act("Theirs could not be read", async () => store.take(await getDraft(store.chain)))}
        >
          Go on with theirs
        </Button>
        <Button onClick={() => void store.keepMine()}>Go on with mine</Button>
      </Group>
      <p className="soft small">With theirs, undo brings yours back. With yours, theirs stays under Versions.</p>
    </Modal>
  );
}
