import { Link } from "@tanstack/react-router";
import type { Finding } from "../../core/history/findings";

const words: Record<Finding["what"], string> = {
  fails: "✕ began to fail",
  rejects: "⊘ rejects more",
  slower: "⧗ got slower",
  quicker: "» got quicker",
};

/** What is not as it was, each with the first run that it shows in. */
export function Findings({
  found,
  called,
  choose,
}: {
  found: readonly Finding[];
  called: (address: string) => string;
  choose: (address: string | undefined) => void;
}) {
  if (found.length === 0) return null;
  return (
    <ul className="sheet findings" aria-label="What is not as it was">
      {found.slice(0, 6).map((finding) => (
        <li key={`${finding.what} ${finding.address}`} data-what={finding.what}>
          <span className="word">{words[finding.what]}</span>
          <button type="button" className="linkbutton" onClick={() => choose(finding.address || undefined)}>
            {called(finding.address)}
          </button>
          <span>{finding.text}</span>
          <Link className="small" to="/runs/$id/difference" params={{ id: String(finding.run) }}>
            run {finding.run} beside the one before
          </Link>
        </li>
      ))}
    </ul>
  );
}
