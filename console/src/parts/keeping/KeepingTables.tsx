import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import type { ChainKeepingInfo, KeepRuleInfo, PinInfo, RetentionInfo, UsageInfo } from "../../core/api/types";
import { bytes, dayAndClock } from "../../core/format";
import { useKeepingCommands } from "../../queries/keeping";
import { DataTable, type Column } from "../table/DataTable";
import { RuleDialog } from "./RuleDialog";

/** Each chain with the rule for its runs, and what would go now. */
export function ChainKeeping({ kept }: { kept: RetentionInfo }) {
  const [editing, setEditing] = useState<ChainKeepingInfo | null>(null);
  const { setRule, removeRule } = useKeepingCommands();
  const columns: Column<ChainKeepingInfo>[] = [
    {
      title: "Chain",
      cell: (c) => (
        <Link to="/chains/$name" params={{ name: c.chain }}>
          {c.chain}
        </Link>
      ),
    },
    { title: "What stays", cell: (c) => c.says },
    { title: "Said for", cell: (c) => <span className="soft">{placeOf(c.rule ?? null)}</span> },
    { title: "Would go now", numeric: true, cell: (c) => (c.gone === 0 ? "–" : c.gone.toLocaleString("en")) },
    {
      title: { spoken: "What can be done" },
      cell: (c) => (
        <div className="rowactions">
          <Button
            size="compact-sm"
            variant="default"
            aria-label={`Change what stays of ${c.chain}`}
            onClick={() => setEditing(c)}
          >
            Change…
          </Button>
          {c.rule?.chain != null && (
            <Button
              size="compact-sm"
              variant="default"
              aria-label={`Let the rule around ${c.chain} hold again`}
              onClick={() => void act("The rule stays", () => removeRule({ chain: c.chain, atLeast: 0 }))}
            >
              Take away
            </Button>
          )}
        </div>
      ),
    },
  ];
  return (
    <>
      <DataTable columns={columns} rows={kept.chains} keyOf={(c) => c.chain} />
      {editing && (
        <RuleDialog
          about={editing.chain}
          rule={editing.rule?.chain == null ? null : editing.rule}
          save={setRule}
          close={() => setEditing(null)}
        />
      )}
    </>
  );
}

function placeOf(rule: KeepRuleInfo | null): string {
  if (rule === null) return "nobody has said anything";
  if (rule.chain != null) return "this chain";
  return rule.folder == null || rule.folder === "" ? "the whole workspace" : `folder ${rule.folder}`;
}

/** What was said for folders. */
export function FolderRules({ rules }: { rules: readonly KeepRuleInfo[] }) {
  const { removeRule } = useKeepingCommands();
  const columns: Column<KeepRuleInfo>[] = [
    { title: "Folder", cell: (r) => placeOf(r) },
    { title: "Days", numeric: true, cell: (r) => r.days ?? "–" },
    { title: "Newest in any case", numeric: true, cell: (r) => r.atLeast },
    { title: "Never more than", numeric: true, cell: (r) => r.atMost ?? "–" },
    {
      title: { spoken: "What can be done" },
      cell: (r) => (
        <Button
          size="compact-sm"
          variant="default"
          aria-label={`Take away what was said for ${placeOf(r)}`}
          onClick={() => void act("The rule stays", () => removeRule(r))}
        >
          Take away
        </Button>
      ),
    },
  ];
  return <DataTable columns={columns} rows={rules} keyOf={(r) => r.folder ?? ""} />;
}

/** Runs that stay whatever the rules say. */
export function Pins({ pins }: { pins: readonly PinInfo[] }) {
  const { unpin } = useKeepingCommands();
  const columns: Column<PinInfo>[] = [
    {
      title: "Run",
      cell: (p) => (
        <Link to="/runs/$id" params={{ id: String(p.run) }}>
          run {p.run}
        </Link>
      ),
    },
    { title: "Why", cell: (p) => p.why ?? <span className="soft">nobody said</span> },
    { title: "By", cell: (p) => p.by },
    { title: "Since", cell: (p) => dayAndClock(p.at) },
    {
      title: { spoken: "What can be done" },
      cell: (p) => (
        <Button
          size="compact-sm"
          variant="default"
          aria-label={`Unpin run ${String(p.run)}`}
          onClick={() => void act("It stays pinned", () => unpin(p.run))}
        >
          Unpin
        </Button>
      ),
    },
  ];
  return <DataTable columns={columns} rows={pins} keyOf={(p) => p.run} />;
}

/** What takes room, the largest first; tables of the database stand below it. */
export function Usage({ usage }: { usage: readonly UsageInfo[] }) {
  const most = Math.max(1, ...usage.map((u) => u.bytes ?? 0));
  const columns: Column<UsageInfo>[] = [
    { title: "What", cell: (u) => (u.isPart ? <span className="usagepart">{u.what}</span> : u.what) },
    { title: "Number", numeric: true, cell: (u) => (u.count === 0 ? "" : u.count.toLocaleString("en")) },
    { title: "Room", numeric: true, cell: (u) => (u.bytes == null ? "" : bytes(u.bytes)) },
    {
      title: { spoken: "Beside the largest" },
      cell: (u) => (
        <span
          className="usagebar"
          data-part={u.isPart || undefined}
          style={{ "--share": `${String((100 * (u.bytes ?? 0)) / most)}%` } as object}
        />
      ),
      className: "usageshare",
    },
  ];
  return <DataTable columns={columns} rows={usage} keyOf={(u) => u.what} />;
}
