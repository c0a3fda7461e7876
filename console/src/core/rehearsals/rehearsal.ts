import type { RehearsalResult } from "../api/types";
import { readAll, readTyped, type Given, type TypedText } from "../values/typed";
import { addressOf, inScope } from "../stepPath";

/** What was chosen for one step. */
export interface Assumption {
  outcome: "succeeds" | "fails" | "first";
  /** What it gives, by name. */
  outputs: Readonly<Record<string, TypedText>>;
}

/** Assumptions by the step's address, for all iterations and rounds, or by its path, for one of them. */
export type Assumptions = ReadonlyMap<string, Assumption>;

export const assumedSuccess: Assumption = { outcome: "succeeds", outputs: {} };

/** Whether something was chosen that a rehearsal would not assume by itself. */
export const isAssumed = ({ outcome, outputs }: Assumption) =>
  outcome !== "succeeds" || Object.keys(outputs).length > 0;

/** What was chosen for a step: for this very one, or for all of its iterations. */
export const assumptionFor = (assumptions: Assumptions, path: string): Assumption =>
  assumptions.get(path) ?? assumptions.get(addressOf(path)) ?? assumedSuccess;

/** What the service is asked to play. */
export interface RehearsalOrder {
  params: Record<string, unknown>;
  fail: string[];
  give: Record<string, unknown>;
  /** A run whose steps end as they did there, where nothing else is chosen. */
  known: number | null;
}

/** Values that can't be read yet, because they are just being typed, are left out. */
export function rehearsalOrder(
  parameters: readonly { name: string; type: string }[],
  given: Given,
  assumptions: Assumptions,
  known: number | null = null,
): RehearsalOrder {
  const fail: string[] = [];
  const give: Record<string, unknown> = {};
  for (const [address, assumption] of assumptions) {
    if (assumption.outcome !== "succeeds") fail.push(assumption.outcome === "first" ? `${address}:1` : address);
    for (const [name, { type, text }] of Object.entries(assumption.outputs)) {
      const read = readTyped(type, text);
      if ("value" in read) give[`${address}.${name}`] = read.value;
    }
  }
  const fields = parameters.map((p) => ({ ...p, required: false }));
  return { params: readAll(fields, given).values, fail, give, known };
}

/** Why a gate was decided so; of several iterations the last one. */
export function gateSentence(result: RehearsalResult, gate: { scope: string; from: string; to: string }): string {
  const name = `${inScope(gate.scope, gate.from)} → ${gate.to}`;
  const line = result.trace.filter((l) => l.what === "gate" && addressOf(l.path) === name).at(-1);
  return line
    ? `“${gate.from}” → “${gate.to}” ${line.text}`
    : `“${gate.from}” has not settled, so the gate is undecided.`;
}
