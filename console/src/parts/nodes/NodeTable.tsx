import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { act } from "../../app/act";
import { useNow } from "../../app/useNow";
import { drainNode, undrainNode } from "../../core/api/client";
import type { NodeInfo } from "../../core/api/types";
import { keys } from "../../queries/keys";
import { Allowed } from "../access/Allowed";
import { ConfirmButton } from "../page/ConfirmButton";
import { DataTable, type Column } from "../table/DataTable";

/** The nodes, one a row. */
export function NodeTable({ nodes }: { nodes: readonly NodeInfo[] }) {
  const now = useNow(true);
  const all = Math.max(
    1,
    nodes.reduce((sum, n) => sum + n.runs, 0),
  );
  const columns: Column<NodeInfo>[] = [
    { title: "Node", cell: (node) => <Name node={node} /> },
    { title: "State", cell: (node) => <State node={node} now={now} /> },
    {
      title: "Runs",
      numeric: true,
      cell: (node) =>
        node.ownsRuns ? (
          <span className="nodeload" style={{ "--share": `${String(Math.round((100 * node.runs) / all))}%` } as object}>
            {node.runs}
          </span>
        ) : (
          <span className="soft">none of its own</span>
        ),
    },
    { title: "At work", cell: (node) => <Work node={node} /> },
    {
      title: "Labels",
      cell: (node) =>
        node.labels.map((label) => (
          <span key={label} className="nodelabel">
            {label}
          </span>
        )),
    },
    { title: "Version", cell: (node) => node.version },
    { title: { spoken: "What can be done" }, cell: (node) => <Actions node={node} /> },
  ];
  return (
    <DataTable
      columns={columns}
      rows={nodes}
      keyOf={(node) => node.name}
      attributes={(node) => ({ "data-state": node.state })}
      className="nodes"
    />
  );
}

function Name({ node }: { node: NodeInfo }) {
  return (
    <>
      <strong>{node.name}</strong>
      {node.leads && <span className="nodelabel leads">for all</span>}
      <div className="soft small">
        {node.isThis ? "the one you look through" : <a href={`${node.address}/nodes`}>{node.address}</a>}
      </div>
    </>
  );
}

const words: Record<string, string> = {
  there: "✓ there",
  draining: "⇥ handing over",
  silent: "… silent",
  gone: "✕ gone",
};

function State({ node, now }: { node: NodeInfo; now: number }) {
  const seconds = Math.max(0, Math.round((now - Date.parse(node.seen)) / 1000));
  const since = seconds < 120 ? `${String(seconds)} s` : `${String(Math.round(seconds / 60))} min`;
  return (
    <>
      <span className="nodestate" data-state={node.state}>
        {words[node.state] ?? node.state}
      </span>
      {(node.state === "silent" || node.state === "gone") && <div className="soft small">heard {since} ago</div>}
    </>
  );
}

const most = 5;

function Work({ node }: { node: NodeInfo }) {
  if (node.attempts == null) return <span className="soft">nobody knows</span>;
  return (
    <>
      {node.work.slice(0, most).map((work) => (
        <div key={`${String(work.run)} ${work.step}`}>
          <Link to="/runs/$id" params={{ id: String(work.run) }} search={{ step: work.step }}>
            run {work.run}, {work.step}
          </Link>
          {work.forOther && <span className="soft"> for another node</span>}
        </div>
      ))}
      {node.attempts > most && <div className="soft">and {node.attempts - most} more</div>}
      {node.attempts === 0 && <span className="soft">nothing</span>}
    </>
  );
}

function Actions({ node }: { node: NodeInfo }) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: keys.nodes });
  if (node.state === "gone") return null;
  return (
    <Allowed permission="administer">
      {node.state === "draining" ? (
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => void act(`${node.name} does not go on`, () => undrainNode(node.name)).then(refresh)}
        >
          Go on
        </Button>
      ) : (
        <ConfirmButton
          size="compact-sm"
          variant="default"
          label="Drain…"
          aria-label={`Drain ${node.name}`}
          question={`Drain ${node.name}?`}
          confirmLabel={`Drain ${node.name}`}
          confirm={async () => {
            await drainNode(node.name);
            await refresh();
          }}
        >
          It takes nothing new and hands over what only waits. When the steps that it is at are through, it ends; start
          it again when you are done with its machine.
        </ConfirmButton>
      )}
    </Allowed>
  );
}
