import ELK from "elkjs/lib/elk-api";
import workerUrl from "elkjs/lib/elk-worker.min.js?url";
import type { ScopeGraph } from "../api/types";
import { partsOf } from "./bands";
import { asElk, layoutOf } from "./elkGraph";
import type { Layout } from "./places";
import { quickLayout } from "./quick";
import { arrange, countSteps, type Pane } from "./scopes";

let elk: InstanceType<typeof ELK> | undefined;

/** From how many steps on the layout engine takes seconds. */
const MANY = 80;

/**
 * Places all steps; the work is done by a worker, and for many steps by a simpler way that takes no time.
 * @param pane where it is seen
 */
export async function layOut(graph: ScopeGraph, headers: number, pane: Pane | null): Promise<Layout> {
  // Each band is laid out by itself: it stands below the flow, not in it.
  const parts = await Promise.all(partsOf(graph).map((part) => layOutPart(part, headers, pane)));
  return {
    places: new Map(parts.flatMap((p) => [...p.places])),
    routes: new Map(parts.flatMap((p) => [...p.routes])),
    // The flow comes last: each band stands in an outermost scope of its own.
    scopes: new Map(parts.toReversed().flatMap((p) => [...(p.scopes ?? [])])),
  };
}

async function layOutPart(graph: ScopeGraph, headers: number, pane: Pane | null): Promise<Layout> {
  if (countSteps(graph) > MANY) return quickLayout(graph, headers, pane);
  elk ??= new ELK({ workerUrl });
  const scopes = arrange(graph, headers, pane);
  let at = scopes.next();
  while (!at.done) at = scopes.next(layoutOf(at.value, await elk.layout(asElk(at.value))));
  return at.value;
}
