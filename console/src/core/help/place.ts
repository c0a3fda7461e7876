import type { About } from "./topics";

/** What help is about. */
export interface HelpPlace {
  about: About;
  find?: string;
}

let told: HelpPlace | null = null;

/** What a part of a page that is open has to say of the place one is at; null when it closes. */
export const tellPlace = (place: HelpPlace | null) => {
  told = place;
};

const words: readonly (readonly [RegExp, HelpPlace])[] = [
  [/^\/chains\/[^/]+\/design/, { about: "keys", find: "canvas" }],
  [/^\/chains\/[^/]+\/history/, { about: "words", find: "history" }],
  [/^\/chains/, { about: "words", find: "chain" }],
  [/^\/runs/, { about: "words", find: "run" }],
  [/^\/triggers/, { about: "words", find: "trigger" }],
  [/^\/lanes/, { about: "words", find: "lane" }],
  [/^\/(connections|files)/, { about: "words", find: "workspace" }],
];

/** The help for the place one is at. */
export const placeOf = (path: string): HelpPlace =>
  told ?? words.find(([at]) => at.test(path))?.[1] ?? { about: "words" };

/** Whether a key that is pressed there is typed into something. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && target.closest("input, textarea, select, [contenteditable='true']") !== null;
