import { Link } from "@tanstack/react-router";
import type { TriggerInfo } from "../../core/api/types";
import { until } from "../../core/triggers/words";

/** Whether a trigger is on, in a mark and a word. */
export function OnMark({ trigger }: { trigger: TriggerInfo }) {
  const [mark, word] = !trigger.on ? ["○", "off"] : trigger.held !== null ? ["‖", "held"] : ["●", "on"];
  return (
    <span className={`onmark ${word}`}>
      {mark} {word}
    </span>
  );
}

/** All triggers, by the chain that they start. */
export function TriggerList({
  triggers,
  chosen,
  now,
}: {
  triggers: readonly TriggerInfo[];
  chosen: string | null;
  now: number;
}) {
  const chains = [...new Set(triggers.map((t) => t.chain))].sort();
  return (
    <nav className="sheet triggerlist" aria-label="Triggers by chain">
      {chains.map((chain) => (
        <section key={chain}>
          <h2 className="small soft">
            starts{" "}
            <Link to="/chains/$name" params={{ name: chain }}>
              {chain}
            </Link>
          </h2>
          {triggers
            .filter((t) => t.chain === chain)
            .map((trigger) => (
              <Link
                key={trigger.name}
                to="/triggers"
                search={{ name: trigger.name }}
                className={trigger.name === chosen ? "row chosen" : "row"}
                aria-current={trigger.name === chosen ? "true" : undefined}
              >
                <span className="line">
                  <b>{trigger.name}</b>
                  <OnMark trigger={trigger} />
                </span>
                <span className="small">{trigger.sentence}</span>
                {trigger.next && <span className="small soft">next {until(trigger.next.at, now)}</span>}
                {trigger.troubles.length > 0 && <span className="small late">! {trigger.troubles[0]}</span>}
              </Link>
            ))}
        </section>
      ))}
    </nav>
  );
}
