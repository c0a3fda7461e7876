import { writeKey, writeText } from "./scalar";

const widest = 96;

/** A value in one line: `{ a: 1, b: [x, y] }`. */
export function writeFlow(value: unknown, inFlow = true): string {
  if (value === null || value === undefined) return inFlow ? "null" : "";
  if (typeof value === "string") return writeText(value, inFlow);
  if (Array.isArray(value)) return `[${value.map((v) => writeFlow(v)).join(", ")}]`;
  if (typeof value === "object") {
    const entries = Object.entries(value).filter(([, v]) => v !== undefined);
    return entries.length === 0 ? "{}" : `{ ${entries.map(([k, v]) => `${writeKey(k)}: ${writeFlow(v)}`).join(", ")} }`;
  }
  return String(value as number | boolean);
}

const isFlat = (value: unknown) =>
  typeof value !== "object" ||
  value === null ||
  (Array.isArray(value) && value.every((v) => typeof v !== "object" || v === null));

/** What stands behind `key:`, with the blank or line break before it. Indent is the column of the key. */
export function writeValue(value: unknown, indent: number, wide = false): string {
  if (typeof value === "string" && value.includes("\n") && !/^[ \n]|[ \t]\n/.test(value))
    return ` ${writeBlockText(value, indent)}`;
  if (typeof value !== "object" || value === null) {
    const text = writeFlow(value, false);
    return text === "" ? "" : ` ${text}`;
  }
  const line = writeFlow(value);
  const short = line.length + indent <= widest && !line.includes("\n");
  const size = Array.isArray(value) ? value.length : Object.keys(value).length;
  // Items that have keys stand in lines of their own.
  if (Array.isArray(value) && size > 0 && !isFlat(value)) return `\n${writeBlock(value, indent + 2)}`;
  if (size === 0 || isFlat(value) ? short : short && !wide) return ` ${line}`;
  return `\n${writeBlock(value, indent + 2)}`;
}

/** A mapping or list over several lines, each begun with the indent; no line break at the end. */
export function writeBlock(value: unknown, indent: number): string {
  const space = " ".repeat(indent);
  if (Array.isArray(value)) return value.map((item) => `${space}- ${writeItem(item, indent)}`).join("\n");
  return Object.entries(value as object)
    .filter(([, v]) => v !== undefined)
    .map(([k, v]) => `${space}${writeKey(k)}:${writeValue(v, indent, k === "steps" || k === "set")}`)
    .join("\n");
}

function writeItem(item: unknown, indent: number): string {
  const line = writeFlow(item, false);
  if (typeof item !== "object" || item === null || line.length + indent + 2 <= widest) return line;
  return writeBlock(item, indent + 2).trimStart();
}

function writeBlockText(text: string, indent: number): string {
  const space = " ".repeat(indent + 2);
  const end = text.endsWith("\n") ? "|" : "|-";
  return `${end}\n${text
    .replace(/\n$/, "")
    .split("\n")
    .map((line) => (line === "" ? "" : space + line))
    .join("\n")}`;
}
