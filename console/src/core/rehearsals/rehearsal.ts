import type { RehearsalResult } from "../api/types";
import { outputsOf } from "../format";
import { addressOf, inScope } from "../stepPath";

/** What was chosen for one step. */
export interface Wish {
  outcome: "succeeds" | "fails" | "first";
  /** One a line, name = value. */
  outputs: string;
}

/** Wishes by the step's address: they hold in all iterations and rounds. */
export type Wishes = ReadonlyMap<string, Wish>;

export const noWish: Wish = { outcome: "succeeds", outputs: "" };

/** What the service is asked to play. */
export interface RehearsalOrder {
  params: Record<string, unknown>;
  fail: string[];
  give: Record<string, unknown>;
}

/** Outputs that can't be read yet, because they are just being typed, are left out. */
export function wishOf(params: Record<string, string>, wishes: Wishes): RehearsalOrder {
  const fail: string[] = [];
  const give: Record<string, unknown> = {};
  for (const [address, wish] of wishes) {
    if (wish.outcome !== "succeeds") fail.push(wish.outcome === "first" ? `${address}:1` : address);
    const outputs = outputsOf(wish.outputs);
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
