import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { Fragment, useState } from "react";
import { act } from "../../app/act";
import type { FireInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { fateOf, happened, isMissing } from "../../core/triggers/words";
import { StateMark } from "../run/StateMark";
import { useTriggerCommands } from "../../queries/triggers";

/** Occasions of a trigger, newest first, and what became of each; an event opens on a click. */
export function FireTable({ fires, now }: { fires: readonly FireInfo[]; now: number }) {
  const commands = useTriggerCommands();
  const [open, setOpen] = useState<number | null>(null);
  if (fires.length === 0) return <p className="soft">It has not fired yet.</p>;
  const again = (fire: FireInfo) =>
    act("The fire was not repeated", () => commands.fire(fire.trigger, null, fire.number));
  return (
    <table className="dense fires">
      <thead>
        <tr>
          <th>When</th>
          <th>What</th>
          <th>What became of it</th>
        </tr>
      </thead>
      <tbody>
        {fires.map((fire) => (
          <Fragment key={fire.number}>
            <tr>
              <td className="soft">{clock(fire.at, now)}</td>
              <td>
                <button
                  className="plain"
                  aria-expanded={open === fire.number}
                  onClick={() => setOpen(open === fire.number ? null : fire.number)}
                >
                  {happened(fire)} {open === fire.number ? "▾" : "▸"}
                </button>
              </td>
              <td>
                {fire.run !== null ? (
                  <>
                    <Link to="/runs/$id" params={{ id: String(fire.run) }}>
                      run {fire.run}
                    </Link>{" "}
                    {fire.outcome && <StateMark state={fire.outcome} />}
                  </>
                ) : (
                  <>
                    <b className={isMissing(fire) ? "late" : "soft"}>
                      {isMissing(fire) ? "✕" : "–"} {fateOf(fire)}
                    </b>
                    : {fire.why}
                    {isMissing(fire) && (
                      <Button ml="xs" size="compact-xs" variant="default" onClick={() => void again(fire)}>
                        Fire again
                      </Button>
                    )}
                  </>
                )}
              </td>
            </tr>
            {open === fire.number && (
              <tr className="event">
                <td colSpan={3}>
                  <pre>{JSON.stringify(fire.event, null, 2)}</pre>
                </td>
              </tr>
            )}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}
