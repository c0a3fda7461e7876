import ELK, { type ElkNode } from "elkjs/lib/elk-api";
import workerUrl from "elkjs/lib/elk-worker.min.js?url";
import type { ScopeGraph } from "../api/types";
import { asElk, placesOf, routesOf, type Places, type Routes } from "./elkGraph";
import { partsOf } from "./bands";
import { countSteps, quickPlaces } from "./quick";

let elk: InstanceType<typeof ELK> | undefined;

/** From how many steps on the layout engine takes seconds. */
const MANY = 80;

/** Where everything is. */
export interface Layout {
  places: Places;
  routes: Routes;
}

/** Places all steps; the work is done by a worker, and for many steps by a simpler way that takes no time. */
export async function layOut(graph: ScopeGraph, headers: number): Promise<Layout> {
  // Each band is laid out by itself: it stands below the flow, not in it.
  const parts = await Promise.all(partsOf(graph).map((part) => layOutPart(part, headers)));
  return {
    places: new Map(parts.flatMap((p) => [...p.places])),
    routes: new Map(parts.flatMap((p) => [...p.routes])),
  };
}

async function layOutPart(graph: ScopeGraph, headers: number): Promise<Layout> {
  if (countSteps(graph) > MANY) return { places: quickPlaces(graph, headers), routes: new Map() };
  elk ??= new ELK({ workerUrl });
  const laidOut: ElkNode = await elk.layout(asElk(graph, headers));
  return { places: placesOf(laidOut), routes: routesOf(laidOut) };
}
