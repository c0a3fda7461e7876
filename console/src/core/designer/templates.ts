/** An expression inside a text, with the offset of its first character. */
export interface Piece {
  text: string;
  from: number;
}

/** The expressions of a text with `${…}` in it; `$${` is no beginning of one. */
export function expressionsIn(text: string): Piece[] {
  const pieces: Piece[] = [];
  for (let i = 0; i < text.length; i++) {
    if (text.startsWith("$${", i)) i += 2;
    else if (text.startsWith("${", i)) {
      const end = closing(text, i + 2);
      pieces.push({ text: text.slice(i + 2, end), from: i + 2 });
      i = end;
    }
  }
  return pieces;
}

/** The dotted names that an expression reads, and the beginnings of them: `steps.load.rows` and `steps.load`. */
export function namesRead(expression: string): ReadonlySet<string> {
  const names = new Set<string>();
  for (const [found] of expression.replace(/"[^"]*"|'[^']*'/g, '""').matchAll(/[A-Za-z_]\w*(?:\.[A-Za-z_]\w*)*/g)) {
    const parts = found.split(".");
    parts.forEach((_, i) => names.add(parts.slice(0, i + 1).join(".")));
  }
  return names;
}

// The brace that ends an expression: those inside of texts and maps do not.
function closing(text: string, from: number): number {
  let depth = 0;
  let quote = "";
  for (let i = from; i < text.length; i++) {
    const c = text.charAt(i);
    if (quote !== "") {
      if (c === "\\") i++;
      else if (c === quote) quote = "";
    } else if (c === "'" || c === '"') quote = c;
    else if (c === "{") depth++;
    else if (c === "}" && depth-- === 0) return i;
  }
  return text.length;
}

/** The expression of a text that an offset lies in; null outside of all. */
export const expressionAt = (text: string, offset: number): Piece | null =>
  expressionsIn(text).find((p) => p.from <= offset && offset <= p.from + p.text.length) ?? null;
