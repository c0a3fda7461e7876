import type { DesignState } from "../../../core/designer/DesignStore";
import { scopeOf } from "../../../core/stepPath";
import type { MenuEntry } from "./CanvasMenu";

/** What the menu of the canvas offers for what is chosen; most of it is what a key does too. */
export function entriesOf(
  { design, selection }: DesignState,
  keys: Record<string, () => void>,
  arrange: (how: "left" | "top") => void,
  wrapInto: (kind: "group" | "each" | "repeat") => void,
): MenuEntry[] {
  const entry = (label: string, key: string, shown = key.toUpperCase()): MenuEntry => ({
    label,
    keys: shown,
    run: () => keys[key]?.(),
  });
  const remove: MenuEntry = { ...entry("Remove", "Delete", "Del"), danger: true };
  const alike = new Set(selection.steps.map(scopeOf)).size === 1;
  const wraps: MenuEntry[] = alike
    ? [
        { label: "Wrap in a group", run: () => wrapInto("group") },
        { label: "Wrap in a loop over a list", run: () => wrapInto("each") },
        { label: "Wrap in a repetition", run: () => wrapInto("repeat") },
      ]
    : [];
  if (selection.gate) return [entry("Change the gate", "Enter", "Enter"), remove];
  if (selection.steps.length > 1)
    return [
      entry("Copy", "Ctrl+c", "Ctrl+C"),
      { label: "Align in a row", run: () => arrange("top") },
      { label: "Align in a column", run: () => arrange("left") },
      ...wraps,
      remove,
    ];
  const step = design.steps.get(selection.steps[0] ?? "");
  if (step)
    return [
      entry("Open", "Enter", "Enter"),
      entry("Add a step after it", "a"),
      entry("Draw a gate from it", "g"),
      entry("Rename", "F2"),
      entry("Copy", "Ctrl+c", "Ctrl+C"),
      entry(step.disabled ? "Enable" : "Disable", "d"),
      entry("Pause before it in a try", "p"),
      ...wraps,
      remove,
    ];
  if (selection.band !== undefined)
    return [
      entry("Add a step to it", "a"),
      entry("Paste", "Ctrl+v", "Ctrl+V"),
      { ...remove, label: "Remove the handler" },
    ];
  return [
    entry("Add a step", "a"),
    entry("Paste", "Ctrl+v", "Ctrl+V"),
    entry("Find", "Ctrl+f", "Ctrl+F"),
    entry("Tidy", "t"),
    entry("Show all", "0"),
    entry("Natural size", "1"),
  ];
}
