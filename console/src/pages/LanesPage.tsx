import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { listLanes } from "../core/api/client";

/** Every lane: how wide it is, which steps are in it, and which wait. */
export function LanesPage() {
  const { data, error } = useQuery({ queryKey: ["lanes"], queryFn: listLanes, refetchInterval: 1000 });
  return (
    <div className="page">
      <div className="headline">
        <h1>Lanes</h1>
      </div>
      {error && <div className="errorbox">{error.message}</div>}
      {data?.length === 0 && (
        <div className="sheet empty">
          There are no lanes. A lane limits how many steps run at once across all runs: declare one in{" "}
          <code>lanes.yaml</code> and name it at a step or a chain.
        </div>
      )}
      {data && data.length > 0 && (
        <div className="sheet">
          <table className="dense">
            <thead>
              <tr>
                <th>Lane</th>
                <th className="num">Taken</th>
                <th>In it</th>
                <th>Waiting, the next one first</th>
              </tr>
            </thead>
            <tbody>
              {data.map((lane) => (
                <tr key={lane.name}>
                  <td>{lane.name}</td>
                  <td className="num">
                    {lane.holders.length} of {lane.width}
                  </td>
                  <td>
                    <Seats seats={lane.holders} />
                  </td>
                  <td>
                    <Seats seats={lane.waiting} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}

function Seats({ seats }: { seats: readonly { run: number; step: string }[] }) {
  return (
    <>
      {seats.slice(0, 20).map((seat) => (
        <div key={`${String(seat.run)} ${seat.step}`}>
          <Link to="/runs/$id" params={{ id: String(seat.run) }} search={{ step: seat.step }}>
            run {seat.run}, {seat.step}
          </Link>
        </div>
      ))}
      {seats.length > 20 && <div className="soft">and {seats.length - 20} more</div>}
    </>
  );
}
