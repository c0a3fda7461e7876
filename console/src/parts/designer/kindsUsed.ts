import { keepJson, readJson } from "../../core/browserStore";
import { used } from "../../core/designer/kindOrder";
import { useRemembered } from "../page/useRemembered";

const none: string[] = [];
const lately = "gatechain recent kinds";

/** The kinds that the person has marked, as this browser remembers them. */
export const useFavouriteKinds = () => useRemembered<string[]>("favourite kinds", none);

/** The kinds that were added last, the newest first. */
export function recentKinds(): string[] {
  const found = readJson(lately);
  return Array.isArray(found) ? found.filter((kind) => typeof kind === "string") : [];
}

/** Remembers that a kind was added. */
export const noteUsed = (kind: string): void => keepJson(lately, used(recentKinds(), kind));
