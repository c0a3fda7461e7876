// The paths of steps and scopes: `depots[2]/load`, `@failure[1]/mail`; without numbers they are addresses in the
// chain. The twin of StepPath in the core: both are held to tests/cases/step-paths.json.

/** What a step or scope lies in; empty for the chain's own scope. */
export const scopeOf = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf("/")));

/** The last part: for an address the id of the step. */
export const idOf = (path: string) => path.slice(path.lastIndexOf("/") + 1);

/** The place in the chain: the path without the numbers of iterations, rounds and handlers. */
export const addressOf = (path: string) => path.replace(/\[\d+\](?=\/|$)/g, "");

/** The path of a step of a scope. */
export const inScope = (scope: string, id: string) => (scope === "" ? id : `${scope}/${id}`);

/** The number of the iteration, round or handler that a path ends with; null for none. */
export function indexOf(path: string): number | null {
  const found = /[^/@]\[(\d+)\]$/.exec(path);
  return found ? Number(found[1]) : null;
}

/** Of an iteration the step that it is one of; else the path itself. */
export const ownerOf = (path: string) => (indexOf(path) === null ? path : path.slice(0, path.lastIndexOf("[")));

/** The iterations that a path leads through, outermost first. */
export function iterationsOf(path: string): { owner: string; index: number }[] {
  const found: { owner: string; index: number }[] = [];
  for (let end = path.indexOf("/"); end !== -1 || found.length === 0; end = path.indexOf("/", end + 1)) {
    const part = end === -1 ? path : path.slice(0, end);
    const index = indexOf(part);
    if (index !== null) found.push({ owner: ownerOf(part), index });
    if (end === -1) break;
  }
  return found;
}

/** The parts of a path, outermost first, each with the step that it leads to; null for a handler. */
export function partsOfPath(path: string): { text: string; of: string | null }[] {
  const parts = path.split("/");
  return parts.map((text, i) => {
    const of = ownerOf(parts.slice(0, i + 1).join("/"));
    return { text, of: of.startsWith("@") && !of.includes("/") ? null : of };
  });
}
