import { parse } from "yaml";

/** The value that a scalar means as it stands in a file, after the core schema of YAML 1.2. */
export function scalarValue(source: string): unknown {
  const first = source.charAt(0);
  if (first === '"' || first === "'" || first === "|" || first === ">") {
    try {
      return first === "|" || first === ">"
        ? (parse(`v: ${source}\n`) as { v: unknown }).v
        : (parse(source) as unknown);
    } catch {
      return source;
    }
  }
  const text = source.includes("\n") ? source.replace(/\s*\n\s*/g, " ") : source;
  if (text === "" || text === "~" || text === "null") return null;
  if (/^(true|True|TRUE)$/.test(text)) return true;
  if (/^(false|False|FALSE)$/.test(text)) return false;
  if (/^[-+]?[0-9]+$/.test(text) && Number.isSafeInteger(Number(text))) return Number(text);
  if (/^[-+]?(\.[0-9]+|[0-9]+(\.[0-9]*)?)([eE][-+]?[0-9]+)?$/.test(text)) return Number(text);
  return text;
}

const meansMore = /^(~|null|true|false|[-+]?[.0-9].*|)$/i;

/** A key as it is written in a file. */
export const writeKey = (key: string) => (/^[A-Za-z_@][\w./@-]*$/.test(key) ? key : writeText(key, true));

/** A text as it is written in a file: plain where that means the same, else quoted. */
export function writeText(text: string, inFlow: boolean): string {
  const plainly =
    text !== "" &&
    text === text.trim() &&
    !/[\n\t\u0000-\u001f]/.test(text) &&
    !/^[-?:,[\]{}#&*!|>'"%@`]/.test(text) &&
    !/: |:$| #/.test(text) &&
    !(inFlow && /[,[\]{}]/.test(text)) &&
    (!meansMore.test(text) || /^[-+]?[.0-9]+[a-z]/i.test(text));
  if (plainly) return text;
  // What has double quotes in it is easier to read in single ones.
  if (/["\\]/.test(text) && !/[\n\t\u0000-\u001f]/.test(text)) return `'${text.replaceAll("'", "''")}'`;
  return JSON.stringify(text);
}
