import ELK, { type ElkNode } from "elkjs/lib/elk-api";
import workerUrl from "elkjs/lib/elk-worker.min.js?url";
import type { ScopeGraph } from "../api/types";
import { asElk, placesOf, type Places } from "./elkGraph";

let elk: InstanceType<typeof ELK> | undefined;

/** Places all steps; the work is done by a worker. */
export async function layOut(graph: ScopeGraph, headers: number): Promise<Places> {
  elk ??= new ELK({ workerUrl });
  const laidOut: ElkNode = await elk.layout(asElk(graph, headers));
  return placesOf(laidOut);
}
