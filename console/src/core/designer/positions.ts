/** The offset of a one-based line and column; columns count characters, not code units. */
export function offsetOf(text: string, line: number, column: number): number {
  let start = 0;
  for (let i = 1; i < line; i++) {
    const end = text.indexOf("\n", start);
    if (end < 0) return text.length;
    start = end + 1;
  }
  let offset = start;
  for (let i = 1; i < column && offset < text.length && text.charAt(offset) !== "\n"; i++)
    offset += (text.codePointAt(offset) ?? 0) > 0xffff ? 2 : 1;
  return offset;
}
