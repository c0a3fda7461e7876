/** How many kinds count as used lately. */
const lately = 4;

/** Those that were used last, the newest first, after one more was. */
export const used = (before: readonly string[], kind: string): string[] =>
  [kind, ...before.filter((k) => k !== kind)].slice(0, lately);

/** Favourites first, then those used lately, then the rest; each in its own order. */
export function inOrder<T extends { name: string }>(
  kinds: readonly T[],
  favourites: readonly string[],
  recent: readonly string[],
): T[] {
  const rank = ({ name }: T) =>
    favourites.includes(name) ? 0 : recent.includes(name) ? 1 + recent.indexOf(name) : lately + 1;
  return kinds.toSorted((a, b) => rank(a) - rank(b));
}
