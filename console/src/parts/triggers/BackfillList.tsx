import { Button } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { act } from "../../app/act";
import { changeBackfill, listBackfills } from "../../core/api/client";

/** Backfills and how far they have got; nothing when there is none. */
export function BackfillList() {
  const queries = useQueryClient();
  const backfills = useQuery({
    queryKey: ["backfills"],
    queryFn: listBackfills,
    refetchInterval: (query) => (query.state.data?.some((b) => b.state === "running") ? 1000 : false),
  });
  if (!backfills.data || backfills.data.length === 0) return null;
  const change = async (number: number, action: "pause" | "resume" | "stop") => {
    await act("The backfill was not changed", () => changeBackfill(number, action));
    await queries.invalidateQueries({ queryKey: ["backfills"] });
  };
  return (
    <>
      <h2 className="second">Backfills</h2>
      <div className="sheet">
        <table className="dense">
          <thead>
            <tr>
              <th className="num">No.</th>
              <th>Trigger</th>
              <th>Span</th>
              <th>State</th>
              <th>How far</th>
              <th>Failed</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {backfills.data.map((b) => (
              <tr key={b.number}>
                <td className="num">{b.number}</td>
                <td>{b.trigger}</td>
                <td className="soft">
                  {b.from.slice(0, 10)} to {b.to.slice(0, 10)}
                </td>
                <td>{b.state}</td>
                <td>
                  <progress max={b.times} value={b.succeeded + b.passedOver + b.failed} /> {b.succeeded} of {b.times}{" "}
                  succeeded{b.going > 0 && `, ${String(b.going)} going`}
                </td>
                <td>
                  {b.failures.slice(0, 3).map((f) =>
                    f.run !== null ? (
                      <Link key={f.due} to="/runs/$id" params={{ id: String(f.run) }}>
                        run {f.run}{" "}
                      </Link>
                    ) : (
                      <span key={f.due} title={f.why}>
                        {f.due.slice(0, 10)}{" "}
                      </span>
                    ),
                  )}
                  {b.failed > 3 && `and ${String(b.failed - 3)} more`}
                </td>
                <td>
                  {b.state === "running" && (
                    <Button size="compact-xs" variant="default" onClick={() => void change(b.number, "pause")}>
                      Pause
                    </Button>
                  )}
                  {b.state === "paused" && (
                    <Button size="compact-xs" variant="default" onClick={() => void change(b.number, "resume")}>
                      Resume
                    </Button>
                  )}
                  {(b.state === "running" || b.state === "paused") && (
                    <Button ml={4} size="compact-xs" variant="default" onClick={() => void change(b.number, "stop")}>
                      Stop
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
