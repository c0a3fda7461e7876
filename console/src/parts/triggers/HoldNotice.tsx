import { Allowed } from "../access/Allowed";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { act } from "../../app/act";
import { clock } from "../../core/format";
import { ConfirmButton } from "../page/ConfirmButton";
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
        <Allowed permission="operate" folder="">
          <ConfirmButton
            size="compact-xs"
            variant="subtle"
            label="Hold all triggers…"
            question="Hold all triggers?"
            confirmLabel="Hold"
            confirm={() => change(true)}
          >
            No trigger starts a chain until somebody releases them. Runs that have started continue, and people can
            start runs.
          </ConfirmButton>
        </Allowed>
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
            <Allowed permission="operate" folder="" tell>
              <Button size="compact-xs" onClick={() => void change(false)}>
                Release
              </Button>
            </Allowed>
          )}
        </div>
      ))}
    </>
  );
}
