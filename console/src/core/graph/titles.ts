import type { ChainGraph, ScopeGraph } from "../api/types";

/** The titles of all steps of a chain and its handlers, by address. */
export function titlesOf(graph: ChainGraph | undefined): Map<string, string> {
  const titles = new Map<string, string>();
  const visit = (scope: ScopeGraph) => {
    for (const step of scope.steps) {
      titles.set(step.address, step.title);
      if (step.inner) visit(step.inner);
    }
  };
  if (graph) [graph, ...graph.handlers.map((h) => h.graph)].forEach(visit);
  return titles;
}
