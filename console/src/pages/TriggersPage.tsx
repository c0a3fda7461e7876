import { Button, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useNow } from "../app/useNow";
import { listTriggers } from "../core/api/client";
import { BackfillList } from "../parts/triggers/BackfillList";
import { HoldNotice } from "../parts/triggers/HoldNotice";
import { TriggerDetail } from "../parts/triggers/TriggerDetail";
import { TriggerEditor } from "../parts/triggers/TriggerEditor";
import { TriggerList } from "../parts/triggers/TriggerList";
import { WeekView } from "../parts/triggers/WeekView";
import "../styles/triggers.css";

/** What starts chains by itself: a list with the chosen trigger beside it, or a week of starts. */
export function TriggersPage() {
  const { name, view } = useSearch({ from: "/triggers" });
  const navigate = useNavigate();
  const triggers = useQuery({ queryKey: ["triggers"], queryFn: () => listTriggers(), refetchInterval: 15_000 });
  const [editing, setEditing] = useState<{ name: string | null } | null>(null);
  const now = useNow(true, 1000);
  const all = triggers.data ?? [];
  const chosen = all.find((t) => t.name === name) ?? (name === undefined ? all[0] : undefined);
  return (
    <div className="page triggers">
      <div className="headline">
        <h1>Triggers</h1>
        <div className="rest">
          <SegmentedControl
            size="xs"
            aria-label="View"
            value={view ?? "list"}
            onChange={(next) =>
              void navigate({ to: "/triggers", search: { name, view: next === "week" ? "week" : undefined } })
            }
            data={[
              { value: "list", label: "List" },
              { value: "week", label: "Week" },
            ]}
          />
          <Button size="xs" onClick={() => setEditing({ name: null })}>
            New trigger…
          </Button>
        </div>
      </div>
      <HoldNotice />
      {triggers.error && <div className="errorbox">{triggers.error.message}</div>}
      {triggers.data && all.length === 0 && (
        <div className="sheet empty">
          Nothing starts by itself yet. A trigger starts a chain at a time, when a file comes, when another system
          calls, when something is seen, or when another run has ended.
        </div>
      )}
      {view === "week" ? (
        <WeekView now={now} />
      ) : (
        all.length > 0 && (
          <div className="triggerbody">
            <TriggerList triggers={all} chosen={chosen?.name ?? null} now={now} />
            {chosen ? (
              <TriggerDetail
                key={chosen.name}
                trigger={chosen}
                now={now}
                edit={() => setEditing({ name: chosen.name })}
              />
            ) : (
              <div className="sheet empty">There is no trigger “{name}”.</div>
            )}
          </div>
        )
      )}
      {view !== "week" && <BackfillList />}
      {editing && <TriggerEditor name={editing.name} close={() => setEditing(null)} />}
    </div>
  );
}
