import { notifications } from "@mantine/notifications";
import type { KeyboardEvent, RefObject } from "react";
import { planRename } from "../../../core/api/client";
import { walk, walkBands, type Direction } from "../../../core/designer/arrange";
import type { DesignStore } from "../../../core/designer/DesignStore";
import { copied, keepCopied } from "../../../core/designer/shelf";
import { copy, isCopied, paste, remove, setKey, takenIds, type Selection } from "../../../core/designer/operations";
import { applyChanges } from "../../../core/document/edit";
import type { Box } from "../../../core/graph/flow";
import { idOf, scopeOf } from "../../../core/stepPath";

interface Actions {
  store: DesignStore;
  boxes: RefObject<Box[]>;
  show: (address: string) => void;
  openInspector: () => void;
  add: () => void;
  gate: () => void;
  find: () => void;
  field: () => void;
  rename: () => void;
  fit: () => void;
  natural: () => void;
  pause: () => void;
}

const arrows: Record<string, Direction> = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down" };

/** Everything that keys do on the canvas. */
export function useCanvasKeys(actions: Actions) {
  const { store } = actions;
  const onKeyDown = (event: KeyboardEvent) => {
    const target = event.target as HTMLElement;
    if (target.closest("input, textarea, select, [contenteditable=true]")) return;
    // Buttons on the canvas are pressed with these.
    if (target.closest("button") && (event.key === "Enter" || event.key === " ")) return;
    const { design, selection } = store.state;
    const one = oneOf(selection);
    const control = event.ctrlKey || event.metaKey;
    const done = () => {
      event.preventDefault();
      event.stopPropagation();
    };
    const direction = arrows[event.key];
    if (direction && !control) {
      done();
      if (event.altKey) {
        // Into a container, and out of it again.
        const inner = one === null ? undefined : design.steps.get(one)?.inner?.steps[0]?.address;
        const to = direction === "down" || direction === "right" ? inner : one === null ? undefined : scopeOf(one);
        if (to !== undefined && to !== "") choose(to);
        return;
      }
      const from = one ?? selection.steps.at(-1) ?? selection.band ?? null;
      const to = selection.band === undefined ? walk(design, actions.boxes.current, from, direction) : null;
      const beyond = to === null ? walkBands(actions.boxes.current, from, direction) : null;
      if (to !== null) choose(to, event.shiftKey);
      else if (beyond && "step" in beyond) choose(beyond.step);
      else if (beyond) store.select({ steps: [], gate: null, band: beyond.band });
      return;
    }
    const name = control
      ? `Ctrl+${event.shiftKey ? "Shift+" : ""}${event.key.toLowerCase()}`
      : event.key.length === 1
        ? event.key.toLowerCase()
        : event.key;
    const binding = bindings()[name];
    if (!binding) return;
    done();
    binding();

    function choose(address: string, more = false) {
      store.select({ steps: more ? [...new Set([...selection.steps, address])] : [address], gate: null });
      document.querySelector(`[data-step="${CSS.escape(address)}"]`)?.scrollIntoView({ block: "nearest" });
    }
  };

  /** What the keys do with what is chosen now, by the name of the key. */
  function bindings(): Record<string, () => void> {
    const { design, selection } = store.state;
    const one = oneOf(selection);
    return {
      a: actions.add,
      Insert: actions.add,
      i: actions.openInspector,
      j: actions.field,
      g: actions.gate,
      F2: actions.rename,
      "0": actions.fit,
      "1": actions.natural,
      p: actions.pause,
      t: () => store.tidy(),
      Enter: () =>
        one === null && !selection.gate && selection.band === undefined ? undefined : actions.openInspector(),
      " ": () =>
        selection.band !== undefined
          ? store.fold(selection.band, !store.state.folded.has(selection.band))
          : one !== null && design.steps.get(one)?.inner
            ? store.fold(one, !store.state.folded.has(one))
            : undefined,
      Delete: () => store.apply(remove(design, selection)),
      Backspace: () => store.apply(remove(design, selection)),
      Escape: () => store.select({ steps: [], gate: null }),
      d: () =>
        one === null
          ? undefined
          : store.apply(
              setKey(
                design,
                [...(design.steps.get(one)?.path ?? []), "disabled"],
                design.steps.get(one)?.disabled === true ? undefined : true,
              ),
            ),
      "Ctrl+z": () => store.undo(),
      "Ctrl+y": () => store.redo(),
      "Ctrl+Shift+z": () => store.redo(),
      "Ctrl+f": actions.find,
      "Ctrl+a": () =>
        store.select({
          steps: (design.scopes.get(one === null ? (selection.band ?? "") : scopeOf(one))?.steps ?? []).map(
            (s) => s.address,
          ),
          gate: null,
        }),
      "Ctrl+c": () => void take(),
      "Ctrl+x": () => {
        void take();
        store.apply(remove(design, selection));
      },
      "Ctrl+v": () => void put(),
      "Ctrl+s": () => void store.save(),
    };

    async function take() {
      if (selection.steps.length === 0) return;
      const clip = copy(design, selection.steps);
      keepCopied(clip);
      try {
        await navigator.clipboard.writeText(clip);
      } catch {
        // It is pasted within this browser then.
      }
    }

    async function put() {
      let text = copied();
      try {
        const found = await navigator.clipboard.readText();
        if (isCopied(found)) text = found;
      } catch {
        // Not allowed to read it; what was copied in this browser is at hand.
      }
      if (!isCopied(text)) {
        notifications.show({ message: "The clipboard holds no steps." });
        return;
      }
      // Names that are taken give way, with all that refers to them inside of what is pasted.
      for (const [address, id] of takenIds(store.state.design, text)) {
        const head = "chain: pasted\n";
        const plan = await planRename("pasted", head + text, "step", scopeOf(address), idOf(address), id).catch(
          () => null,
        );
        if (!plan || plan.refusal != null) {
          notifications.show({
            color: "red",
            message: plan?.refusal ?? "The service does not answer, so nothing was pasted.",
          });
          return;
        }
        text = applyChanges(
          head + text,
          plan.places.map((p) => ({ from: p.edit.start, to: p.edit.start + p.edit.length, insert: p.edit.text })),
        ).slice(head.length);
      }
      const inner = one === null ? null : store.state.design.steps.get(one);
      store.apply(
        paste(
          store.state.design,
          text,
          inner?.inner && inner.inner.steps.length === 0
            ? inner.address
            : one === null
              ? (selection.band ?? "")
              : scopeOf(one),
        ),
      );
    }
  }

  return { onKeyDown, bindings };
}

const oneOf = (selection: Selection) => (selection.steps.length === 1 ? (selection.steps[0] ?? null) : null);
