import { forget, keepJson, keepText, readJson, readText } from "../browserStore";

/** A text that the service does not have yet, kept in this browser so that a reload or a crash loses nothing. */
export interface UnsavedText {
  text: string;
  /** The version on the service that it is made from. */
  version: number;
}

const name = (chain: string) => `gatechain.draft.${chain}`;

/** A browser without room keeps nothing; the service gets it within a second anyway. */
export const keepUnsaved = (chain: string, unsaved: UnsavedText) => keepJson(name(chain), unsaved);

export function unsavedText(chain: string): UnsavedText | null {
  const found = readJson(name(chain)) as UnsavedText | null;
  return found && typeof found.text === "string" && typeof found.version === "number" ? found : null;
}

export const forgetUnsaved = (chain: string) => forget(name(chain));

const COPIED = "gatechain.copied";

/** Copied steps, for browsers that keep their clipboard from pages. */
export const keepCopied = (text: string) => keepText(COPIED, text);

export const copied = (): string => readText(COPIED) ?? "";
