import type { PartChangeInfo } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";

export function worstOf(state: DesignState): Map<string, "error" | "warning" | "hint"> {
  const worst = new Map<string, "error" | "warning" | "hint">();
  const rank = { error: 2, warning: 1, hint: 0 };
  for (const p of state.problems) {
    const key = p.step ?? (p.gate && `${p.gate.scope}#${String(p.gate.index)}`);
    if (key == null) continue;
    const severity = p.severity as "error" | "warning" | "hint";
    const old = worst.get(key);
    if (old === undefined || rank[severity] > rank[old]) worst.set(key, severity);
  }
  return worst;
}

/** The steps that can never run, with the reason. */
export function neverOf(state: DesignState): Map<string, string> {
  const never = new Map<string, string>();
  for (const p of state.problems) if (p.means === "neverRuns" && p.step != null) never.set(p.step, p.message);
  return never;
}

export function changesOf(changes: PartChangeInfo[] | null): Map<string, string> {
  const marks = new Map<string, string>();
  for (const c of changes ?? []) {
    if (c.part === "step") marks.set(c.address, c.change);
    // One that is gone is nowhere on the canvas.
    if (c.gate && c.change !== "removed") marks.set(`${c.gate.scope}#${String(c.gate.index)}`, c.change);
  }
  return marks;
}

/** What is chosen, for who does not see it. */
export function sayChosen(state: DesignState): string {
  const { design, selection } = state;
  if (selection.gate) {
    const gate = design.gate(selection.gate.scope, selection.gate.index);
    return gate ? `Gate from ${gate.from} to ${gate.to}, ${gate.label === "" ? "on success" : gate.label}` : "";
  }
  if (selection.steps.length > 1) return `${String(selection.steps.length)} steps chosen`;
  const step = design.steps.get(selection.steps[0] ?? "");
  if (!step) return "";
  const gates = design.scopes.get(step.scope)?.gates ?? [];
  return `${step.title}, ${step.kind}, ${String(gates.filter((g) => g.to === step.id).length)} gates in, ${String(gates.filter((g) => g.from === step.id).length)} out${step.inner ? `, ${String(step.inner.steps.length)} steps inside` : ""}`;
}
