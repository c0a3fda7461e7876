/** A word of ours, and what it is. */
export interface Word {
  word: string;
  /** With code in backticks. */
  text: string;
}

/** The words of a table in Markdown, as docs/concepts.md has it; links become their words. */
export function wordsOf(markdown: string): Word[] {
  return [...markdown.matchAll(/^\| \*\*(.+?)\*\* \| (.+) \|$/gm)].map(([, word, text]) => ({
    word: word ?? "",
    text: plain(text ?? ""),
  }));
}

const plain = (text: string) =>
  text
    .replace(/\[([^\]]+)\]\([^)]*\)/g, "$1")
    .replace(/\*\*([^*]+)\*\*|\*([^*]+)\*/g, (_, bold?: string, soft?: string) => bold ?? soft ?? "")
    .trim();

/** Those whose word or meaning holds a text, those whose word does first. */
export function find(words: readonly Word[], wanted: string): Word[] {
  const text = wanted.trim().toLowerCase();
  const inWord = (w: Word) => w.word.toLowerCase().includes(text);
  return words
    .filter((w) => inWord(w) || w.text.toLowerCase().includes(text))
    .sort((a, b) => Number(inWord(b)) - Number(inWord(a)));
}
