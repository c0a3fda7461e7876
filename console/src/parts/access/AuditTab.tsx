import { Button, TextInput } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNow } from "../../app/useNow";
import { verifyAudit } from "../../core/api/access";
import type { AuditInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { auditQuery } from "../../queries/access";
import { EmptyState } from "../page/EmptyState";
import { ErrorBox } from "../page/ErrorBox";
import { DataTable, type Column } from "../table/DataTable";

/** Who has changed what. */
export function AuditTab() {
  const [by, setBy] = useState("");
  const [action, setAction] = useState("");
  const [text, setText] = useState("");
  const filter = useDeferredValue(
    Object.fromEntries(Object.entries({ by, action, text }).filter(([, v]) => v.trim() !== "")),
  );
  const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery(auditQuery(filter));
  const [verdict, setVerdict] = useState<{ good: boolean; text: string } | null>(null);
  const now = useNow(false);
  const lines = data?.pages.flat() ?? [];
  const columns: Column<AuditInfo>[] = [
    { title: "When", cell: (l) => clock(l.at, now), hint: (l) => l.at },
    { title: "Who", cell: (l) => l.by },
    { title: "From", cell: (l) => <span className="soft">{[l.from, l.through].filter(Boolean).join(", ")}</span> },
    { title: "Did", cell: (l) => l.action },
    { title: "To", cell: (l) => l.object },
    { title: "Detail", cell: (l) => l.detail, hint: (l) => l.detail ?? undefined },
  ];
  const verify = async () => {
    try {
      const found = await verifyAudit();
      setVerdict(
        found.wrong.length === 0
          ? { good: true, text: `All ${String(found.lines)} lines are as they were written.` }
          : { good: false, text: found.wrong.join("\n") },
      );
    } catch (e) {
      setVerdict({ good: false, text: e instanceof Error ? e.message : String(e) });
    }
  };
  return (
    <>
      <div className="auditfilter">
        <TextInput label="Who" value={by} onChange={(e) => setBy(e.currentTarget.value)} />
        <TextInput
          label="Did"
          placeholder="sign in, release, stop …"
          value={action}
          onChange={(e) => setAction(e.currentTarget.value)}
        />
        <TextInput label="Has the words" value={text} onChange={(e) => setText(e.currentTarget.value)} />
        <div className="rowactions" style={{ marginLeft: "auto" }}>
          <Button size="compact-sm" variant="default" onClick={() => void verify()}>
            Is it whole?
          </Button>
          <Button size="compact-sm" variant="default" component="a" href="/api/audit/export" download="audit.jsonl">
            Download
          </Button>
        </div>
      </div>
      <div role="status">
        {verdict?.good === true && <p className="small">✓ {verdict.text}</p>}
        {verdict?.good === false && <ErrorBox error={verdict.text} />}
      </div>
      <ErrorBox error={error} />
      {data && lines.length === 0 && <EmptyState>There are no such lines.</EmptyState>}
      {lines.length > 0 && <DataTable columns={columns} rows={lines} keyOf={(l) => l.number} />}
      {hasNextPage && (
        <Button mt="sm" variant="default" loading={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          Earlier ones
        </Button>
      )}
    </>
  );
}
