import { applyChanges, setAt } from "./edit";
import { YamlText, type YamlNode } from "./tree";
import { writeBlock } from "./write";

// Files that are one mapping of names to settings: connections, profiles, lanes, calendars, triggers.

/** What a file says of a name: whatever a form does not know stays as it is. */
export type Entry = Record<string, unknown>;

/** The text of a file in which an entry is set, renamed or taken away; all else stays as it is. */
export function putEntry(text: string, before: string | null, name: string, entry: Entry | null): string {
  let next = text;
  const change = (path: string[], value: unknown) => {
    next = applyChanges(next, setAt(new YamlText(next), path, value));
  };
  if (before !== null && (entry === null || before !== name)) change([before], undefined);
  if (entry === null) return next;
  const old = before === name ? readEntry(text, name) : null;
  // Only what differs is written: comments and order of the rest stay.
  if (old === null) {
    if (Object.keys(entriesOf(next) ?? {}).length === 0 && withoutComments(next) === "")
      return `${next === "" || next.endsWith("\n") ? next : `${next}\n`}${writeBlock({ [name]: entry }, 0)}\n`;
    change([name], entry);
    return next;
  }
  for (const key of new Set([...Object.keys(old), ...Object.keys(entry)])) {
    if (!isSame(old[key], entry[key])) change([name, key], entry[key]);
  }
  return next;
}

const withoutComments = (text: string) => text.replace(/^\s*#.*$/gm, "").trim();

/** What a file says of a name; null when it says nothing. */
export function readEntry(text: string, name: string): Entry | null {
  const root = new YamlText(text).root;
  const found = root?.kind === "map" ? root.entries.find((e) => e.key === name) : undefined;
  return found?.value?.kind === "map" ? (plain(found.value) as Entry) : null;
}

/** All that a file says, by name, in its order; null for a text that is no mapping of mappings. */
export function entriesOf(text: string): Record<string, Entry> | null {
  const { root } = new YamlText(text);
  if (root === null) return withoutComments(text) === "" ? {} : null;
  if (root.kind !== "map" || root.entries.some((e) => e.value !== null && e.value.kind !== "map")) return null;
  return Object.fromEntries(root.entries.map((e) => [e.key, e.value ? (plain(e.value) as Entry) : {}]));
}

/**
 * What two people have made of a text, put together: each entry as the one left it who changed it. Those that both have
 * changed in different ways clash, and so does all when one of the texts can't be read.
 */
export function mergeEntries(base: string, mine: string, theirs: string): { text: string } | { clash: string[] } {
  const [was, own, other] = [entriesOf(base), entriesOf(mine), entriesOf(theirs)];
  if (was === null || own === null || other === null) return { clash: ["the text"] };
  const changed = [...new Set([...Object.keys(was), ...Object.keys(own)])].filter((k) => !isSame(was[k], own[k]));
  // Only a comment, or the order, is another: nobody can say where that belongs in their text.
  if (changed.length === 0) return base === mine ? { text: theirs } : { clash: ["the text"] };
  const clash = changed.filter((k) => !isSame(was[k], other[k]) && !isSame(own[k], other[k]));
  if (clash.length > 0) return { clash };
  return {
    text: changed.reduce((text, name) => putEntry(text, name in other ? name : null, name, own[name] ?? null), theirs),
  };
}

const isSame = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

function plain(node: YamlNode): unknown {
  if (node.kind === "scalar") return node.value;
  if (node.kind === "list") return node.items.map((i) => (i.value ? plain(i.value) : null));
  return Object.fromEntries(node.entries.map((e) => [e.key, e.value ? plain(e.value) : null]));
}
