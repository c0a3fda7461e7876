import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { isMissing } from "../../core/triggers/words";
import { ErrorBox } from "../page/ErrorBox";
import { weekQuery } from "../../queries/triggers";

const day = 86_400_000;
const dateOf = (at: number) => new Date(at).toISOString().slice(0, 10);
const time = (at: string) => at.slice(11, 16);

/** Seven days, from yesterday on: what has started, what is planned, and days off. Days are those of UTC. */
export function WeekView({ now }: { now: number }) {
  const [offset, setOffset] = useState(0);
  const from = dateOf(now + (offset * 7 - 1) * day);
  const week = useQuery(weekQuery(from));
  return (
    <div className="sheet week">
      <div className="line">
        <Button size="xs" variant="default" onClick={() => setOffset(offset - 1)}>
          ‹ Week before
        </Button>
        <Button size="xs" variant="default" disabled={offset === 0} onClick={() => setOffset(0)}>
          This week
        </Button>
        <Button size="xs" variant="default" onClick={() => setOffset(offset + 1)}>
          Week after ›
        </Button>
        <span className="soft small">
          days and times in UTC · ● started · ○ planned · ✕ refused or late · – passed over
        </span>
      </div>
      <ErrorBox error={week.error} />
      <div className="days">
        {week.data?.map((column) => {
          const date = new Date(`${column.date}T00:00:00Z`);
          const starts = [
            ...column.fires.map((f) => ({ at: f.at, fire: f, planned: null })),
            ...column.planned.map((p) => ({ at: p.at, fire: null, planned: p })),
          ].sort((a, b) => a.at.localeCompare(b.at));
          return (
            <section key={column.date} className={column.date === dateOf(now) ? "day today" : "day"}>
              <h2>
                {date.toLocaleDateString("en-GB", { weekday: "short", timeZone: "UTC" })}{" "}
                <span className="soft">{column.date.slice(5)}</span>
              </h2>
              {column.off.map((name) => (
                <div key={name} className="off" title={`left out by ${name}`}>
                  day off: {name}
                </div>
              ))}
              {starts.map(({ at, fire, planned }) =>
                fire ? (
                  <div key={`f${String(fire.number)}`} className={`start ${fire.fate}`} title={fire.why ?? undefined}>
                    <span className="mono">{time(at)}</span>{" "}
                    {fire.run !== null ? (
                      <Link to="/runs/$id" params={{ id: String(fire.run) }}>
                        {fire.outcome === "failed" ? "✕" : "●"} {fire.trigger}
                      </Link>
                    ) : (
                      <Link to="/triggers" search={{ name: fire.trigger }}>
                        {isMissing(fire) ? "✕" : "–"} {fire.trigger}
                      </Link>
                    )}
                  </div>
                ) : (
                  planned && (
                    <div key={`p${planned.trigger}${at}`} className="start planned">
                      <span className="mono">{time(at)}</span>{" "}
                      <Link to="/triggers" search={{ name: planned.trigger }}>
                        ○ {planned.trigger}
                      </Link>
                    </div>
                  )
                ),
              )}
              {column.more > 0 && <div className="soft small">and {column.more} more</div>}
            </section>
          );
        })}
      </div>
    </div>
  );
}
