import type { RehearsalResult } from "../api/types";
import { outputsOf } from "../format";
import { addressOf, inScope } from "../stepPath";

/** What was chosen for one step. */
export interface Assumption {
  outcome: "succeeds" | "fails" | "first";
  /** One a line, name = value. */
  outputs: string;
}

/** Assumptions by the step's address: they hold in all iterations and rounds. */
export type Assumptions = ReadonlyMap<string, Assumption>;

export const assumedSuccess: Assumption = { outcome: "succeeds", outputs: "" };

/** What the service is asked to play. */
export interface RehearsalOrder {
  params: Record<string, unknown>;
  fail: string[];
  give: Record<string, unknown>;
}

/** Outputs that can't be read yet, because they are just being typed, are left out. */
export function rehearsalOrder(params: Record<string, string>, assumptions: Assumptions): RehearsalOrder {
  const fail: string[] = [];
  const give: Record<string, unknown> = {};
  for (const [address, assumption] of assumptions) {
    if (assumption.outcome !== "succeeds") fail.push(assumption.outcome === "first" ? `${address}:1` : address);
    const outputs = outputsOf(assumption.outputs);
    if (outputs instanceof Error) continue;
    for (const [name, value] of Object.entries(outputs)) give[`${address}.${name}`] = value;
  }
  return { params: Object.fromEntries(Object.entries(params).filter(([, text]) => text !== "")), fail, give };
}

/** Why a gate was decided so; of several iterations the last one. */
export function gateSentence(result: RehearsalResult, gate: { scope: string; from: string; to: string }): string {
  const name = `${inScope(gate.scope, gate.from)} → ${gate.to}`;
  const line = result.trace.filter((l) => l.what === "gate" && addressOf(l.path) === name).at(-1);
  return line
    ? `“${gate.from}” → “${gate.to}” ${line.text}`
    : `“${gate.from}” has not settled, so the gate is undecided.`;
}
