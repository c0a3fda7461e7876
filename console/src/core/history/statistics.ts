/** The value that a share of some numbers is not above; undefined for none. */
export function quantile(numbers: readonly number[], share: number): number | undefined {
  const sorted = numbers.toSorted((a, b) => a - b);
  return sorted[Math.round((sorted.length - 1) * share)];
}

export const median = (numbers: readonly number[]) => quantile(numbers, 0.5);

/** For each place the quantile of those up to it, of so many at most; undefined where there are too few. */
export const rolling = (numbers: readonly (number | null)[], share: number, most: number) =>
  numbers.map((_, i) => {
    const window = numbers.slice(Math.max(0, i - most + 1), i + 1).filter((n) => n !== null);
    return window.length < 3 ? null : (quantile(window, share) ?? null);
  });
