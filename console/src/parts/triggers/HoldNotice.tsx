import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { act } from "../../app/act";
import { clock } from "../../core/format";
import { holdsQuery, useTriggerCommands } from "../../queries/triggers";

/** Says where nothing starts by itself, and lets it start again; or holds everything. */
export function HoldNotice() {
  const commands = useTriggerCommands();
  const holds = useQuery(holdsQuery);
  const change = (on: boolean) => act("Nothing was changed", () => commands.hold(on, null));
  if (!holds.data) return null;
  if (holds.data.length === 0)
    return (
      <p className="soft small">
        Triggers that are on start their chains.{" "}
        <button className="plain" onClick={() => void change(true)}>
          Hold everything
        </button>
      </p>
    );
  return (
    <>
      {holds.data.map((hold) => (
        <div key={hold.folder} className="notice bad">
          Nothing starts by itself{hold.folder === "" ? "" : ` in ${hold.folder}/`}: {hold.by} holds it since{" "}
          {clock(hold.since)}
          {hold.why === null ? "" : `: ${hold.why}`}{" "}
          {hold.folder === "" && (
            <Button size="compact-xs" onClick={() => void change(false)}>
              Let it start again
            </Button>
          )}
        </div>
      ))}
    </>
  );
}
