/** What a run follows: a release by its number, or a draft that was never released by its content. */
export const ContentName = ({ number, release }: { number: number | null | undefined; release: string }) => (
  <>
    {number == null ? "a draft" : `release ${String(number)}`} <code>{release.slice(0, 8)}</code>
  </>
);
