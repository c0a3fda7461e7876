/** A text that the service does not have yet, kept in this browser so that a reload or a crash loses nothing. */
export interface UnsavedText {
  text: string;
  /** The version on the service that it is made from. */
  version: number;
}

const name = (chain: string) => `gatechain.draft.${chain}`;

export function keepUnsaved(chain: string, unsaved: UnsavedText) {
  try {
    localStorage.setItem(name(chain), JSON.stringify(unsaved));
  } catch {
    // A browser without room keeps nothing; the service gets it within a second anyway.
  }
}

export function unsavedText(chain: string): UnsavedText | null {
  try {
    const found = JSON.parse(localStorage.getItem(name(chain)) ?? "null") as UnsavedText | null;
    return found && typeof found.text === "string" && typeof found.version === "number" ? found : null;
  } catch {
    return null;
  }
}

export function forgetUnsaved(chain: string) {
  try {
    localStorage.removeItem(name(chain));
  } catch {
    // It was not kept either.
  }
}

const COPIED = "gatechain.copied";

/** Copied steps, for browsers that keep their clipboard from pages. */
export function keepCopied(text: string) {
  try {
    localStorage.setItem(COPIED, text);
  } catch {
    // The clipboard may have it.
  }
}

export function copied(): string {
  try {
    return localStorage.getItem(COPIED) ?? "";
  } catch {
    return "";
  }
}
