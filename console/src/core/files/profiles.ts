import { applyChanges, setAt } from "../document/edit";
import { entriesOf } from "../document/entries";
import { YamlText } from "../document/tree";

/** A value of the profiles: what each of them says, and the note beside it. */
export interface ProfileRow {
  name: string;
  /** By profile; nothing where it says nothing. */
  values: Record<string, unknown>;
  note: string;
}

/** The profiles of a file side by side; null for a text that can't be read so. */
export function readProfiles(text: string): { profiles: string[]; rows: ProfileRow[] } | null {
  const all = entriesOf(text);
  if (all === null) return null;
  const profiles = Object.keys(all);
  const names = [...new Set(profiles.flatMap((p) => Object.keys(all[p] ?? {})))];
  return {
    profiles,
    rows: names.map((name) => ({
      name,
      values: Object.fromEntries(
        profiles.filter((p) => name in (all[p] ?? {})).map((p) => [p, all[p]?.[name]] as const),
      ),
      note: noteOf(text, profiles, name),
    })),
  };
}

/** The text with a value set; taken away when it is nothing. */
export const setValue = (text: string, profile: string, name: string, value: unknown): string =>
  applyChanges(text, setAt(new YamlText(text), [profile, name], value));

/** The text with one more profile: with the values of another, or none. */
export function addProfile(text: string, name: string, like: string | null): string {
  const values = like === null ? {} : (entriesOf(text)?.[like] ?? {});
  return applyChanges(text, setAt(new YamlText(text), [name], values));
}

/** The text without a profile. */
export const removeProfile = (text: string, name: string): string =>
  applyChanges(text, setAt(new YamlText(text), [name], undefined));

/** The text with a note at a value: a comment in its line in the first profile that has it. */
export function setNote(text: string, name: string, note: string): string {
  const found = lineOf(text, Object.keys(entriesOf(text) ?? {}), name);
  if (found === null) return text;
  const said = note.replaceAll(/\s+/g, " ").trim();
  const line = text.slice(found.end, found.lineEnd);
  const kept = /^\s*#/.test(line) ? "" : line;
  return `${text.slice(0, found.end)}${kept}${said === "" ? "" : ` # ${said}`}${text.slice(found.lineEnd)}`;
}

function noteOf(text: string, profiles: string[], name: string): string {
  const found = lineOf(text, profiles, name);
  return found === null ? "" : (/^\s*#\s?(.*)$/.exec(text.slice(found.end, found.lineEnd))?.[1] ?? "").trim();
}

// Where the value of a name ends in the first profile that has it, and where that line ends.
function lineOf(text: string, profiles: string[], name: string): { end: number; lineEnd: number } | null {
  const { root } = new YamlText(text);
  if (root?.kind !== "map") return null;
  for (const profile of profiles) {
    const values = root.entries.find((e) => e.key === profile)?.value;
    const entry = values?.kind === "map" ? values.entries.find((e) => e.key === name) : undefined;
    if (entry?.value?.kind !== "scalar" || values?.kind !== "map") continue;
    const end = entry.value.to;
    const at = text.indexOf("\n", end);
    return { end, lineEnd: at < 0 ? text.length : at };
  }
  return null;
}

/** A value as it is typed. */
export const typed = (value: unknown): string =>
  value === undefined ? "" : typeof value === "string" ? value : JSON.stringify(value);

/** What was typed, read as the values beside it are: a text stays a text. */
export function readTyped(text: string, others: readonly unknown[]): unknown {
  const like = others.find((o) => o !== undefined && o !== null);
  if (text.trim() === "") return undefined;
  if (typeof like === "string") return text;
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return text;
  }
}
