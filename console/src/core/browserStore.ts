// What this browser keeps for the person. One without room, or that may not, keeps nothing: then everything works as
// on the first visit.

export function readText(name: string): string | null {
  try {
    return localStorage.getItem(name);
  } catch {
    return null;
  }
}

export function keepText(name: string, text: string): void {
  try {
    localStorage.setItem(name, text);
  } catch {
    // See above.
  }
}

export function forget(name: string): void {
  try {
    localStorage.removeItem(name);
  } catch {
    // It was not kept either.
  }
}

/** What was kept as JSON; null when there is nothing that can be read. */
export function readJson(name: string): unknown {
  try {
    return JSON.parse(readText(name) ?? "null") as unknown;
  } catch {
    return null;
  }
}

export const keepJson = (name: string, value: unknown): void => keepText(name, JSON.stringify(value));
