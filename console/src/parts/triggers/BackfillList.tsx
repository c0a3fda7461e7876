import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { act } from "../../app/act";
import { backfillsQuery, useTriggerCommands } from "../../queries/triggers";
import type { BackfillInfo } from "../../core/api/types";
import { DataTable, type Column } from "../table/DataTable";

/** Backfills and how far they have got; nothing when there is none. */
export function BackfillList() {
  const { data } = useQuery(backfillsQuery);
  if (!data || data.length === 0) return null;
  return (
    <>
      <h2 className="second">Backfills</h2>
      <DataTable columns={columns} rows={data} keyOf={(b) => b.number} />
    </>
  );
}

const columns: Column<BackfillInfo>[] = [
  { title: "No.", numeric: true, cell: (b) => b.number },
  { title: "Trigger", cell: (b) => b.trigger },
  { title: "Span", className: "soft", cell: (b) => `${b.from.slice(0, 10)} to ${b.to.slice(0, 10)}` },
  { title: "State", cell: (b) => b.state },
  {
    title: "Progress",
    cell: (b) => (
      <>
        <progress max={b.times} value={b.succeeded + b.passedOver + b.failed} /> {b.succeeded} of {b.times} succeeded
        {b.going > 0 && `, ${String(b.going)} running`}
      </>
    ),
  },
  { title: "Failed", cell: (b) => <Failures backfill={b} /> },
  { title: { spoken: "Actions" }, cell: (b) => <Buttons backfill={b} /> },
];

function Failures({ backfill }: { backfill: BackfillInfo }) {
  return (
    <>
      {backfill.failures.slice(0, 3).map((f) =>
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
      {backfill.failed > 3 && `and ${String(backfill.failed - 3)} more`}
    </>
  );
}

function Buttons({ backfill: { number, state } }: { backfill: BackfillInfo }) {
  const { changeBackfill } = useTriggerCommands();
  const button = (label: string, action: "pause" | "resume" | "stop") => (
    <Button
      mr={4}
      size="compact-xs"
      variant="default"
      onClick={() => void act("The backfill was not changed", () => changeBackfill(number, action))}
    >
      {label}
    </Button>
  );
  return (
    <>
      {state === "running" && button("Pause", "pause")}
      {state === "paused" && button("Resume", "resume")}
      {(state === "running" || state === "paused") && button("Stop", "stop")}
    </>
  );
}
