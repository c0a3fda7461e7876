import { useQuery } from "@tanstack/react-query";
import { Link, Navigate } from "@tanstack/react-router";
import { useNow } from "../app/useNow";
import { dayOrTime } from "../core/format";
import { Needs } from "../parts/home/Needs";
import { RunningRuns } from "../parts/home/RunningRuns";
import { WeekChart } from "../parts/home/WeekChart";
import { Page, PageWithout } from "../parts/page/Page";
import { chainsQuery } from "../queries/chains";
import { homeQuery } from "../queries/history";

/** What an operator sees first: what needs a person, what runs, what comes next, and how it went lately. */
export function HomePage() {
  const home = useQuery(homeQuery);
  const chains = useQuery(chainsQuery);
  const now = useNow(true, 1000);
  // Whoever has no chain yet begins with one.
  if (chains.data?.length === 0) return <Navigate to="/chains" replace />;
  if (!home.data || !chains.data) return <PageWithout title="Home" error={home.error ?? chains.error} />;
  const titles = new Map(chains.data.map((c) => [c.name, c.title ?? c.name]));
  const title = (chain: string) => titles.get(chain) ?? chain;
  const { needs, running, next, hours } = home.data;
  return (
    <Page title="Home" error={home.error} className="home">
      <div className="homegrid">
        <div>
          <section aria-labelledby="needs">
            <h2 id="needs">{needs.length === 0 ? "Nothing needs you" : "Needs you"}</h2>
            <Needs needs={needs} title={title} now={now} />
          </section>
          <section aria-labelledby="running">
            <h2 id="running">{running.length === 0 ? "Nothing runs" : "Running"}</h2>
            <RunningRuns running={running} title={title} now={now} />
          </section>
        </div>
        <div>
          <section aria-labelledby="week">
            <h2 id="week">The last seven days</h2>
            <WeekChart hours={hours} now={now} />
          </section>
          <section aria-labelledby="next">
            <h2 id="next">Next 24 hours</h2>
            {next.length === 0 ? (
              <p className="soft">No trigger that is on has a time in them.</p>
            ) : (
              <ul className="sheet lines">
                {next.slice(0, 12).map((planned, i) => (
                  <li key={i}>
                    <span className="when">{dayOrTime(planned.at, now)}</span>
                    <Link to="/chains/$name" params={{ name: planned.chain }}>
                      {title(planned.chain)}
                    </Link>
                    <Link className="soft small" to="/triggers" search={{ name: planned.trigger }}>
                      {planned.trigger}
                    </Link>
                  </li>
                ))}
              </ul>
            )}
          </section>
        </div>
      </div>
    </Page>
  );
}
