import { useMay } from "../../queries/access";
import { Allowed } from "../access/Allowed";
import { Button, Switch } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import type { TriggerInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { inZone, placeOf, until } from "../../core/triggers/words";
import { BackfillDialog } from "./BackfillDialog";
import { FireTable } from "./FireTable";
import { firesQuery, nextTimesQuery, useTriggerCommands } from "../../queries/triggers";
import { ErrorBox } from "../page/ErrorBox";

/** One trigger: when it fires, with what, and what its fires brought. */
export function TriggerDetail({ trigger, now, edit }: { trigger: TriggerInfo; now: number; edit: () => void }) {
  const commands = useTriggerCommands();
  const [filling, setFilling] = useState(false);
  const { may, whyNot } = useMay();
  const folder = trigger.file.slice(0, Math.max(0, trigger.file.lastIndexOf("/")));
  const schedule = trigger.kind === "schedule";
  const next = useQuery(nextTimesQuery(trigger));
  const fires = useQuery(firesQuery(trigger));
  const turn = (on: boolean) => act(`${trigger.name} was not switched`, () => commands.turn(trigger.name, on));
  const fire = () => act(`${trigger.name} was not fired`, () => commands.fire(trigger.name, null, null));
  return (
    <div className="sheet triggerdetail">
      <div className="line">
        <h2>{trigger.name}</h2>
        <Switch
          disabled={!may("operate", folder)}
          title={whyNot("operate", folder) ?? undefined}
          checked={trigger.on}
          label={trigger.on ? "on" : "off"}
          aria-label={`${trigger.name} is ${trigger.on ? "on" : "off"}`}
          onChange={(e) => void turn(e.currentTarget.checked)}
        />
        <span className="rest">
          {schedule && (
            <Allowed permission="operate" folder={folder}>
              <Button size="xs" variant="default" onClick={() => void fire()}>
                Fire now
              </Button>
              <Button size="xs" variant="default" onClick={() => setFilling(true)}>
                Backfill…
              </Button>
            </Allowed>
          )}
          <Allowed permission="design" folder={folder}>
            <Button size="xs" variant="default" onClick={edit}>
              Edit…
            </Button>
          </Allowed>
        </span>
      </div>
      <p className="sentence">
        Starts{" "}
        <Link to="/chains/$name" params={{ name: trigger.chain }}>
          {trigger.chain}
        </Link>{" "}
        {trigger.sentence}.
      </p>
      {trigger.on !== trigger.fileSays && (
        <p className="small soft">
          Switched {trigger.on ? "on" : "off"} by {trigger.switchedBy} {clock(trigger.switched, now)};{" "}
          <code>{trigger.file}</code> says {trigger.fileSays ? "on" : "off"}.
        </p>
      )}
      {trigger.troubles.map((trouble) => (
        <ErrorBox key={trouble} error={trouble} />
      ))}
      <dl className="facts">
        {schedule && (
          <>
            <dt>Next, {placeOf(trigger.zone)} time</dt>
            <dd>
              {next.data?.length === 0 && "never again"}
              <ol className="times">
                {next.data?.map((due) => (
                  <li key={due.due}>
                    <span className="mono">{inZone(due.at, trigger.zone)}</span>{" "}
                    <span className="soft small">{trigger.on ? until(due.at, now) : "when it is on"}</span>
                    {due.at !== due.due && (
                      <span className="soft small"> · due {inZone(due.due, trigger.zone).slice(-5)}, spread</span>
                    )}
                  </li>
                ))}
              </ol>
            </dd>
          </>
        )}
        {trigger.hook && (
          <>
            <dt>Address</dt>
            <dd className="mono">
              POST {window.location.origin}
              {trigger.hook}
            </dd>
          </>
        )}
        {trigger.when && (
          <>
            <dt>Only when</dt>
            <dd className="mono">{trigger.when}</dd>
          </>
        )}
        {Object.keys(trigger.params).length > 0 && (
          <>
            <dt>Gives</dt>
            <dd>
              {Object.entries(trigger.params).map(([name, expression]) => (
                <div key={name}>
                  <code>{name}</code> = <code>{expression}</code>
                </div>
              ))}
            </dd>
          </>
        )}
        {trigger.profile && (
          <>
            <dt>Profile</dt>
            <dd>{trigger.profile}</dd>
          </>
        )}
        <dt>Declared in</dt>
        <dd className="mono">{trigger.file}</dd>
      </dl>
      <h3>Fires</h3>
      <FireTable fires={fires.data ?? trigger.fires} now={now} />
      {filling && <BackfillDialog trigger={trigger} close={() => setFilling(false)} />}
    </div>
  );
}
