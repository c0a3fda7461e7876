import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ChainKeeping, FolderRules, Pins, Usage } from "../parts/keeping/KeepingTables";
import { RuleDialog } from "../parts/keeping/RuleDialog";
import { ConfirmButton } from "../parts/page/ConfirmButton";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { useMay } from "../queries/access";
import { retentionQuery, usageQuery, useKeepingCommands } from "../queries/keeping";
import "../parts/keeping/keeping.css";

/** How long runs are kept, which stay in any case, and what takes room. */
export function KeepingPage() {
  const { session, whyNot } = useMay();
  if (!session) return null;
  const refusal = whyNot("administer");
  return refusal === null ? (
    <Kept />
  ) : (
    <Page title="Keeping">
      <EmptyState>{refusal}</EmptyState>
    </Page>
  );
}

function Kept() {
  const { data, error } = useQuery(retentionQuery);
  const { data: usage, error: noUsage } = useQuery(usageQuery);
  const { setRule, removeNow } = useKeepingCommands();
  const [adding, setAdding] = useState(false);
  const folders = data?.rules.filter((r) => r.chain == null) ?? [];
  const gone = data?.chains.reduce((sum, c) => sum + c.gone, 0) ?? 0;
  return (
    <Page
      title="Keeping"
      error={error ?? noUsage}
      actions={
        data && (
          <>
            <Button size="compact-sm" variant="default" onClick={() => setAdding(true)}>
              For a folder…
            </Button>
            <ConfirmButton
              size="compact-sm"
              variant="default"
              disabled={gone === 0}
              label="Remove now…"
              question={`Remove ${runs(gone)}?`}
              confirmLabel={`Remove ${runs(gone)}`}
              confirm={async () => {
                const done = (await removeNow()).reduce((sum, c) => sum + c.gone, 0);
                notifications.show({ message: `${runs(done)} removed`, autoClose: 6000 });
              }}
            >
              They go with their journals, logs and files, and can’t be brought back but from a backup. The service does
              so each hour by itself.
            </ConfirmButton>
          </>
        )
      }
    >
      {data?.chains.length === 0 && <EmptyState>There are no runs yet: everything is kept.</EmptyState>}
      {data && data.chains.length > 0 && <ChainKeeping kept={data} />}
      {folders.length > 0 && (
        <>
          <h2 className="second">Said for folders</h2>
          <FolderRules rules={folders} />
        </>
      )}
      {data && (
        <>
          <h2 className="second">Pinned runs</h2>
          {data.pins.length === 0 ? (
            <p className="soft">None. Whoever may operate a run pins it on its page, so that it stays in any case.</p>
          ) : (
            <Pins pins={data.pins} />
          )}
        </>
      )}
      {usage && usage.length > 0 && (
        <>
          <h2 className="second">What takes room</h2>
          <Usage usage={usage} />
        </>
      )}
      {adding && <RuleDialog about={null} rule={null} save={setRule} close={() => setAdding(false)} />}
    </Page>
  );
}

const runs = (count: number) => `${count.toLocaleString("en")} ${count === 1 ? "run" : "runs"}`;
