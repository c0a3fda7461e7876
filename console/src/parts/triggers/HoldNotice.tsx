import { Button } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { act } from "../../app/act";
import { listHolds, setHold } from "../../core/api/client";
import { clock } from "../../core/format";

/** Says where nothing starts by itself, and lets it start again; or holds everything. */
export function HoldNotice() {
  const queries = useQueryClient();
  const holds = useQuery({ queryKey: ["holds"], queryFn: listHolds });
  const change = async (on: boolean) => {
    await act("Nothing was changed", () => setHold(on, null));
    await queries.invalidateQueries({ queryKey: ["holds"] });
    await queries.invalidateQueries({ queryKey: ["triggers"] });
  };
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
