import type { DataFlowInfo, DatasetInfo, LineageInfo } from "../api/types";

/** What some data are called, as people write it. */
export const nameOf = (data: DatasetInfo): string =>
  data.connection == null ? data.name : `${data.connection}:${data.name}`;

/** Data in a drawing of where they come from and go. */
export interface FlowPlace {
  name: string;
  form: string;
  /** The steps between it and what stands nearer to the middle. */
  through: { chain: string; step: string }[];
}

/** A column of the drawing: how far from what was asked for; below zero what feeds it. */
export interface FlowColumn {
  distance: number;
  places: FlowPlace[];
}

/** The columns of a drawing, the furthest source first; data stand once in each, with all steps that lead there. */
export function columnsOf(found: LineageInfo): FlowColumn[] {
  const columns = new Map<number, Map<string, FlowPlace>>();
  const add = (distance: number, data: DatasetInfo, flow: DataFlowInfo) => {
    const column = columns.get(distance) ?? new Map<string, FlowPlace>();
    columns.set(distance, column);
    const name = nameOf(data);
    const place = column.get(name) ?? { name, form: data.form, through: [] };
    column.set(name, place);
    const { chain, step } = flow.through;
    if (!place.through.some((t) => t.chain === chain && t.step === step)) place.through.push({ chain, step });
  };
  for (const flow of found.before) add(-flow.steps, flow.from, flow);
  for (const flow of found.after) add(flow.steps, flow.to, flow);
  columns.set(0, new Map([["", { name: nameOf(found.uses.data), form: found.uses.data.form, through: [] }]]));
  return [...columns.entries()]
    .sort(([a], [b]) => a - b)
    .map(([distance, places]) => ({ distance, places: [...places.values()] }));
}
