import { isDuration } from "../designer/sentences";

/** What was typed into the fields of a form, by name: for lists and maps as JSON. What was not given is absent. */
export type Given = Readonly<Record<string, string>>;

/** A value as it is typed, and the type it is to have. */
export interface TypedText {
  type: string;
  text: string;
}

export type Read = { value: unknown } | { wrong: string };

/** The type of a list's items; null for what is no list. */
export const itemType = (type: string): string | null =>
  type === "list" ? "any" : (/^list<(.+)>$/.exec(type)?.[1] ?? null);

const isMap = (type: string) => type === "map" || type.startsWith("map<");

/** Reads what was typed as a value of a type, or says what is wrong with it. */
export function readTyped(type: string, text: string): Read {
  const item = itemType(type);
  if (item !== null) return readList(item, text);
  if (isMap(type)) {
    const found = json(text);
    return typeof found === "object" && found !== null && !Array.isArray(found)
      ? { value: found }
      : { wrong: 'It is a map, written as JSON: {"name": "value"}.' };
  }
  switch (type) {
    case "string":
      return { value: text };
    case "bool":
      return text === "true" || text === "false" ? { value: text === "true" } : { wrong: "It is true or false." };
    case "int":
      return readInt(text.trim());
    case "double":
      return text.trim() !== "" && Number.isFinite(Number(text))
        ? { value: Number(text) }
        : { wrong: "It is a number, for example 2.5." };
    case "decimal":
      return /^-?\d{1,38}(\.\d{1,38})?$/.test(text.trim())
        ? { value: text.trim() }
        : { wrong: "It is a number, for example 19.90." };
    case "duration":
      return isDuration(text)
        ? { value: text.trim() }
        : { wrong: "It is a length of time, for example 90s, 1h30m or 2d." };
    case "timestamp":
      return readMoment(text.trim());
    default: {
      const found = json(text);
      return { value: found === undefined ? text : found };
    }
  }
}

function readInt(text: string): Read {
  if (!/^-?\d+$/.test(text)) return { wrong: "It is a whole number." };
  const number = BigInt(text);
  if (number > 2n ** 63n - 1n || number < -(2n ** 63n)) return { wrong: "It is too big for an int." };
  // What a number of the browser can't hold goes as text: the service reads it whole.
  return { value: Number.isSafeInteger(Number(text)) ? Number(text) : text };
}

function readList(item: string, text: string): Read {
  const found = json(text);
  if (!Array.isArray(found)) return { wrong: 'It is a list, written as JSON: ["a", "b"].' };
  const values: unknown[] = [];
  for (const [i, entry] of found.entries()) {
    const read =
      typeof entry === "string"
        ? readTyped(item, entry)
        : readTyped(item, item === "string" ? String(entry) : JSON.stringify(entry));
    if ("wrong" in read) return { wrong: `Item ${String(i + 1)}: ${read.wrong}` };
    values.push(read.value);
  }
  return { value: values };
}

const moment = /^(\d{4})-(\d\d)-(\d\d)(?:[T ](\d\d):(\d\d)(?::(\d\d)(\.\d+)?)?\s*(Z|UTC|[+-]\d\d:\d\d)?)?$/i;

/** A day or a time: without a zone it is UTC. */
function readMoment(text: string): Read {
  const wrong = { wrong: "It is a day or a time, for example 2026-11-22 or 2026-11-22 04:30." };
  const found = moment.exec(text);
  if (!found) return wrong;
  const [, year, month, day, hour, minute, second = "00", fraction = "", zone = "Z"] = found;
  const date = `${year ?? ""}-${month ?? ""}-${day ?? ""}`;
  const midnight = new Date(`${date}T00:00:00Z`);
  if (Number.isNaN(midnight.getTime()) || midnight.toISOString().slice(0, 10) !== date)
    return { wrong: `There is no day ${date}.` };
  if (hour === undefined) return { value: date };
  if (Number(hour) > 23 || Number(minute) > 59 || Number(second) > 59) return wrong;
  return { value: `${date}T${hour}:${minute ?? ""}:${second}${fraction}${/^[+-]/.test(zone) ? zone : "Z"}` };
}

/** A value as one would type it; empty for none. */
export function textOf(type: string, value: unknown): string | undefined {
  if (value === null || value === undefined) return undefined;
  if (typeof value !== "string" || itemType(type) !== null || isMap(type)) return JSON.stringify(value);
  return type === "timestamp"
    ? value.replace(/T00:00:00(\.0+)?Z$/, "").replace(/^(.{10})T(.{5}):00Z$/, "$1 $2")
    : value;
}

function json(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}

/** The values of typed texts; what can't be read goes as text, for the service to say what is wrong with it. */
export const valuesOf = (texts: Readonly<Record<string, TypedText>>): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(texts).map(([name, { type, text }]) => {
      const read = readTyped(type, text);
      return [name, "value" in read ? read.value : text];
    }),
  );

/** A record without one of its members. */
export const without = <T>(all: Readonly<Record<string, T>>, name: string): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([n]) => n !== name));

interface Field {
  name: string;
  type: string;
  required: boolean;
}

/** The values of a form, and what is wrong with its fields, by name. */
export function readAll(
  fields: readonly Field[],
  given: Given,
): { values: Record<string, unknown>; wrong: Record<string, string> } {
  const values: Record<string, unknown> = {};
  const wrong: Record<string, string> = {};
  for (const { name, type, required } of fields) {
    const text = given[name];
    if (text === undefined) {
      // A switch that nobody has touched is off.
      if (required && type === "bool") values[name] = false;
      else if (required) wrong[name] = "It needs a value.";
      continue;
    }
    const read = readTyped(type, text);
    if ("wrong" in read) wrong[name] = read.wrong;
    else values[name] = read.value;
  }
  return { values, wrong };
}

/** Of what the service refused, what it said about a field. */
export function refusedField(message: string | undefined, name: string): string | undefined {
  return message
    ?.split("; ")
    .find((part) => part.includes(`“${name}”`))
    ?.replace(/^./, (first) => first.toUpperCase());
}
