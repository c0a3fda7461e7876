import { Allowed } from "../parts/access/Allowed";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { LaneInfo } from "../core/api/types";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { DataTable, type Column } from "../parts/table/DataTable";
import { lanesQuery } from "../queries/service";

/** Every lane: how wide it is, which steps are in it, and which wait. */
export function LanesPage() {
  const { data, error } = useQuery(lanesQuery);
  return (
    <Page
      title="Lanes"
      error={error}
      actions={
        <Allowed permission="design">
          <Button
            size="compact-sm"
            variant="default"
            renderRoot={(props) => <Link to="/files/edit" search={{ path: "lanes.yaml" }} {...props} />}
          >
            Edit lanes…
          </Button>
        </Allowed>
      }
    >
      {data?.length === 0 && (
        <EmptyState>
          There are no lanes. A lane limits how many steps run at once across all runs:{" "}
          <Link to="/files/edit" search={{ path: "lanes.yaml" }}>
            write lanes.yaml
          </Link>
          , and name one at a step or a chain.
        </EmptyState>
      )}
      {data && data.length > 0 && <DataTable columns={columns} rows={data} keyOf={(lane) => lane.name} />}
    </Page>
  );
}

const columns: Column<LaneInfo>[] = [
  { title: "Lane", cell: (lane) => lane.name },
  { title: "Taken", numeric: true, cell: (lane) => `${String(lane.holders.length)} of ${String(lane.width)}` },
  { title: "In it", cell: (lane) => <Seats seats={lane.holders} /> },
  { title: "Waiting, the next one first", cell: (lane) => <Seats seats={lane.waiting} /> },
];

const most = 20;

function Seats({ seats }: { seats: LaneInfo["holders"] }) {
  return (
    <>
      {seats.slice(0, most).map((seat) => (
        <div key={`${String(seat.run)} ${seat.step}`}>
          <Link to="/runs/$id" params={{ id: String(seat.run) }} search={{ step: seat.step }}>
            run {seat.run}, {seat.step}
          </Link>
        </div>
      ))}
      {seats.length > most && <div className="soft">and {seats.length - most} more</div>}
    </>
  );
}
