/** One simple comparison: a value, a comparison, a value. */
export interface Comparison {
  left: string;
  how: string;
  right: string;
}

/** Comparisons joined by one word. */
export interface Simple {
  join: "&&" | "||";
  parts: Comparison[];
}

/** How comparisons are called, and which need no right side. */
export const comparisons: { how: string; words: string; right: boolean }[] = [
  { how: "==", words: "is", right: true },
  { how: "!=", words: "is not", right: true },
  { how: "<", words: "is less than", right: true },
  { how: "<=", words: "is at most", right: true },
  { how: ">", words: "is more than", right: true },
  { how: ">=", words: "is at least", right: true },
  { how: "contains", words: "contains", right: true },
  { how: "startsWith", words: "begins with", right: true },
  { how: "endsWith", words: "ends with", right: true },
  { how: "true", words: "holds", right: false },
  { how: "false", words: "does not hold", right: false },
  { how: "has", words: "is there", right: false },
];

const value = String.raw`(?:[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*|size\([A-Za-z_][\w.]*\))`;
const literal = String.raw`(?:'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|-?\d+(?:\.\d+)?|true|false|duration\('[^']*'\)|timestamp\('[^']*'\)|${value})`;
const relation = new RegExp(`^(${value})\\s*(==|!=|<=|>=|<|>)\\s*(${literal})$`);
const method = new RegExp(`^(${value})\\.(contains|startsWith|endsWith)\\((${literal})\\)$`);
const presence = /^has\(([A-Za-z_]\w*(?:\.[A-Za-z_]\w*)+)\)$/;

/** Reads an expression back that is made of simple comparisons; null when it is beyond that. */
export function readSimple(text: string): Simple | null {
  if (text.trim() === "") return { join: "&&", parts: [] };
  const split = splitTop(text);
  if (!split) return null;
  const parts = split.parts.map(readOne);
  return parts.every((p) => p !== null) ? { join: split.join, parts } : null;
}

function readOne(text: string): Comparison | null {
  const one = text.trim();
  let match = relation.exec(one);
  if (match) return { left: match[1] ?? "", how: match[2] ?? "", right: match[3] ?? "" };
  match = method.exec(one);
  if (match) return { left: match[1] ?? "", how: match[2] ?? "", right: match[3] ?? "" };
  match = presence.exec(one);
  if (match) return { left: match[1] ?? "", how: "has", right: "" };
  if (new RegExp(`^${value}$`).test(one)) return { left: one, how: "true", right: "" };
  if (new RegExp(`^!${value}$`).test(one)) return { left: one.slice(1), how: "false", right: "" };
  return null;
}

/** Splits at `&&` or `||` outside of texts and brackets; null when both stand there. */
function splitTop(text: string): { join: "&&" | "||"; parts: string[] } | null {
  const parts: string[] = [];
  let join: "&&" | "||" | null = null;
  let depth = 0;
  let quote = "";
  let start = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text.charAt(i);
    if (quote !== "") {
      if (c === "\\") i++;
      else if (c === quote) quote = "";
    } else if (c === "'" || c === '"') quote = c;
    else if ("([{".includes(c)) depth++;
    else if (")]}".includes(c)) depth--;
    else if (depth === 0 && (text.startsWith("&&", i) || text.startsWith("||", i))) {
      const found = text.slice(i, i + 2) as "&&" | "||";
      if (join !== null && join !== found) return null;
      join = found;
      parts.push(text.slice(start, i));
      start = i + 2;
      i++;
    }
  }
  parts.push(text.slice(start));
  return { join: join ?? "&&", parts };
}

/** The expression that comparisons make. */
export function writeSimple(simple: Simple): string {
  return simple.parts
    .filter((p) => p.left !== "")
    .map(writeOne)
    .join(` ${simple.join} `);
}

function writeOne({ left, how, right }: Comparison): string {
  switch (how) {
    case "true":
      return left;
    case "false":
      return `!${left}`;
    case "has":
      return `has(${left})`;
    case "contains":
    case "startsWith":
    case "endsWith":
      return `${left}.${how}(${right === "" ? "''" : right})`;
    default:
      return `${left} ${how} ${right === "" ? "''" : right}`;
  }
}

/** What a person typed as a literal of a type: texts get quotes, numbers stay. */
export function literalOf(typed: string, type: string): string {
  const text = typed.trim();
  if (/^(['"]).*\1$/.test(text)) return text;
  if (type === "string" || (type === "any" && !/^(-?\d+(\.\d+)?|true|false)$/.test(text)))
    return new RegExp(`^${value}$`).test(text) && text.includes(".")
      ? text
      : `'${text.replaceAll("\\", "\\\\").replaceAll("'", "\\'")}'`;
  if (type === "duration" && /^\d/.test(text)) return `duration('${text}')`;
  if (type === "timestamp" && /^\d/.test(text)) return `timestamp('${text}')`;
  return text;
}

/** The comparisons in words. */
export function sayComparison(part: Comparison): string {
  const known = comparisons.find((c) => c.how === part.how);
  return `${part.left} ${known?.words ?? part.how}${known?.right ? ` ${part.right}` : ""}`;
}
