/** A sentence in which code stands between backticks, as the service writes it; here it is set as code. */
export function Prose({ text }: { text: string | null | undefined }) {
  if (text == null) return null;
  return <>{text.split("`").map((part, i) => (i % 2 === 0 ? part : <code key={i}>{part}</code>))}</>;
}
