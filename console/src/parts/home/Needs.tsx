import { Link } from "@tanstack/react-router";
import type { NeedInfo } from "../../core/api/types";
import { between } from "../../core/format";
import { EmptyState } from "../page/EmptyState";

const marks: Record<string, { mark: string; word: string; state: string }> = {
  paused: { mark: "⏸", word: "waits for you", state: "paused" },
  failed: { mark: "✕", word: "failed", state: "failed" },
  broken: { mark: "✕", word: "broken", state: "failed" },
  late: { mark: "⧗", word: "late", state: "resting" },
  endangered: { mark: "⧗", word: "will be late", state: "resting" },
  held: { mark: "◇", word: "held", state: "resting" },
  refused: { mark: "⊘", word: "not started", state: "failed" },
};

/** What a person should look at, each with the way to where it is dealt with. */
export function Needs({
  needs,
  title,
  now,
}: {
  needs: readonly NeedInfo[];
  title: (chain: string) => string;
  now: number;
}) {
  if (needs.length === 0) return <EmptyState>Every chain went well when it last ran, and no run waits.</EmptyState>;
  return (
    <ul className="sheet needs">
      {needs.map((need) => {
        const { mark, word, state } = marks[need.what] ?? { mark: "·", word: need.what, state: "pending" };
        return (
          <li key={`${need.what} ${need.chain} ${String(need.run)} ${need.trigger ?? ""}`}>
            <span className="state" data-state={state}>
              <span className="mark" aria-hidden>
                {mark}
              </span>
              {word}
            </span>
            <div className="what">
              {need.what === "broken" ? (
                <Link to="/chains/$name/design" params={{ name: need.chain }} className="name">
                  {title(need.chain)}
                </Link>
              ) : need.run == null ? (
                <Link to="/triggers" search={{ name: need.trigger ?? undefined }} className="name">
                  Trigger {need.trigger}
                </Link>
              ) : (
                <Link
                  to="/runs/$id"
                  params={{ id: String(need.run) }}
                  search={{ step: need.step ?? undefined }}
                  className="name"
                >
                  {title(need.chain)}
                </Link>
              )}
              <div className="why" title={need.text}>
                {need.text}
              </div>
            </div>
            <div className="more">
              <span className="soft small">
                {need.run != null && `run ${String(need.run)} · `}
                {need.what === "endangered" ? "" : `${between(need.since, null, now)} ago`}
                {need.more > 0 && ` · and ${String(need.more)} ${need.what === "broken" ? "more" : "before"}`}
              </span>
              {need.what === "failed" && need.run != null && (
                <Link className="small" to="/runs/$id/difference" params={{ id: String(need.run) }}>
                  what was different?
                </Link>
              )}
            </div>
          </li>
        );
      })}
    </ul>
  );
}
