import { Allowed } from "../parts/access/Allowed";
import { Button, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useNow } from "../app/useNow";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { BackfillList } from "../parts/triggers/BackfillList";
import { HoldNotice } from "../parts/triggers/HoldNotice";
import { TriggerDetail } from "../parts/triggers/TriggerDetail";
import { TriggerEditor } from "../parts/triggers/TriggerEditor";
import { TriggerList } from "../parts/triggers/TriggerList";
import { WeekView } from "../parts/triggers/WeekView";
import { triggersQuery } from "../queries/triggers";

/** What starts chains by itself: a list with the chosen trigger beside it, or a week of starts. */
export function TriggersPage() {
  const { name, view } = useSearch({ from: "/triggers" });
  const navigate = useNavigate();
  const triggers = useQuery(triggersQuery);
  const [editing, setEditing] = useState<{ name: string | null } | null>(null);
  const now = useNow(true, 1000);
  const all = triggers.data ?? [];
  const chosen = all.find((t) => t.name === name) ?? (name === undefined ? all[0] : undefined);
  return (
    <Page
      title="Triggers"
      className="triggers"
      error={triggers.error}
      actions={
        <>
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
          <Allowed permission="design">
            <Button size="xs" onClick={() => setEditing({ name: null })}>
              New trigger…
            </Button>
          </Allowed>
        </>
      }
    >
      <HoldNotice />
      {triggers.data && all.length === 0 && (
        <EmptyState>
          There are no triggers yet. A trigger starts a chain at a time, when a file arrives, when another system calls,
          when a probe sees something, or when another run has ended.
        </EmptyState>
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
              <EmptyState>There is no trigger “{name}”.</EmptyState>
            )}
          </div>
        )
      )}
      {view !== "week" && <BackfillList />}
      {editing && <TriggerEditor name={editing.name} close={() => setEditing(null)} />}
    </Page>
  );
}
