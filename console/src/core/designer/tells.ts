/** How long a fact may be, in characters: the rest has no room below a title. */
const most = 60;

/**
 * What a step does, off its settings, as its kind says it: `{from.csv|from.table} → {into.table}`. Of `|` the first
 * setting that is there counts; what is not there is left out, and with it an arrow that would lead nowhere. The twin
 * of SettingFacts in the core: both are held to tests/cases/labels.json.
 */
export function tell(template: string | null | undefined, settings: unknown): string | null {
  if (template == null || template === "") return null;
  const parts = template
    .split(" → ")
    .map((part) =>
      part
        .split(" ")
        .map((word) => (word.startsWith("{") ? first(word.slice(1, -1).split("|"), settings) : word))
        .filter((word) => word !== "")
        .join(" "),
    )
    .filter((part) => part !== "");
  const text = parts.join(" → ");
  return text === "" ? null : text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

function first(paths: readonly string[], settings: unknown): string {
  for (const path of paths) {
    const value = path.split(".").reduce<unknown>((at, key) => (isMap(at) ? at[key] : undefined), settings);
    const text = wordsOf(value);
    if (text !== "") return text;
  }
  return "";
}

const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** Of a text its first line, of a file its name, of a list its words. */
function wordsOf(value: unknown): string {
  if (Array.isArray(value)) return value.map(wordsOf).filter(Boolean).join(" ");
  if (isMap(value)) return typeof value["file"] === "string" ? (value["file"].split("/").at(-1) ?? "") : "";
  if (value === null || value === undefined) return "";
  return (
    String(value as string | number | boolean)
      .trim()
      .split("\n")[0] ?? ""
  ).trim();
}
