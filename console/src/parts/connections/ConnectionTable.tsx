import { Allowed } from "../access/Allowed";
import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState, type ReactNode } from "react";
import { checkConnection } from "../../core/api/client";
import { fileOf } from "../../core/files/connectionForm";
import { AreaNote } from "../page/AreaNote";
import { EmptyState } from "../page/EmptyState";
import { DataTable, type Column } from "../table/DataTable";
import type { ConnectionCheckInfo, ConnectionInfo, SecretInfo } from "../../core/api/types";

type Look = "looking" | ConnectionCheckInfo;

/** Folders of the workspace may each have a connection of a name. */
const keyOf = (connection: ConnectionInfo) => `${connection.area ?? ""}/${connection.name}`;

/** Every connection: where it leads, who uses it, and whether it works. */
export function ConnectionTable({ connections, secrets }: { connections: ConnectionInfo[]; secrets: SecretInfo[] }) {
  const [looks, setLooks] = useState<Readonly<Record<string, Look>>>({});
  const look = async (connection: ConnectionInfo) => {
    const put = (found: Look) => setLooks((before) => ({ ...before, [keyOf(connection)]: found }));
    put("looking");
    put(
      await checkConnection(connection.name, connection.area ?? "").catch((e: unknown) => ({
        works: false,
        found: e instanceof Error ? e.message : String(e),
        ms: 0,
      })),
    );
  };
  if (connections.length === 0) {
    return (
      <EmptyState>
        There are no connections. A connection says where a database, a server or a folder is.{" "}
        <Link to="/files/edit" search={{ path: "connections.yaml" }}>
          Write connections.yaml
        </Link>
        , or push a workspace that has it.
      </EmptyState>
    );
  }
  const unset = new Set(secrets.filter((s) => !s.isSet || !s.readable).map((s) => s.name));
  return (
    <>
      <div className="labelrow">
        <span className="soft small">
          Declared in <code>connections.yaml</code> of the workspace, or of one of its folders.
        </span>
        <span className="labelbuttons">
          <Allowed permission="keep">
            <Button
              size="compact-xs"
              variant="default"
              renderRoot={(props) => <Link to="/files/edit" search={{ path: "connections.yaml" }} {...props} />}
            >
              New or edit…
            </Button>
          </Allowed>{" "}
          <Allowed permission="design">
            <Button size="compact-xs" variant="default" onClick={() => connections.forEach((c) => void look(c))}>
              Test all
            </Button>
          </Allowed>
        </span>
      </div>
      <DataTable
        className="connections"
        columns={columns(unset, (c) => (
          <Found look={looks[keyOf(c)]} name={c.name} ask={() => void look(c)} />
        ))}
        rows={connections}
        keyOf={keyOf}
        attributes={(c) => ({ "data-connection": c.name })}
      />
    </>
  );
}

const columns = (
  unset: ReadonlySet<string>,
  works: (connection: ConnectionInfo) => ReactNode,
): Column<ConnectionInfo>[] => [
  {
    title: "Connection",
    cell: (c) => (
      <>
        <Link to="/files/edit" search={{ path: fileOf(c.area, "connections.yaml"), entry: c.name }} title="Edit it">
          <strong>{c.name}</strong>
        </Link>
        <AreaNote area={c.area} />
      </>
    ),
  },
  { title: "Type", cell: (c) => c.type },
  {
    title: "Leads to",
    cell: (c) =>
      Object.entries(c.settings).map(([key, value]) => (
        <div key={key} className="pair">
          <span className="soft">{key}</span> <span className="mono">{value}</span>
          {value.startsWith("secret:") && unset.has(value.slice(7)) && <span className="warned"> ⚠ not set</span>}
        </div>
      )),
  },
  {
    title: "Used by",
    cell: (c) =>
      c.usedBy.length === 0 ? (
        <span className="soft">nobody</span>
      ) : (
        c.usedBy.map((use) => (
          <div key={`${use.chain} ${use.step}`}>
            <Link to="/chains/$name/design" params={{ name: use.chain }} search={{ step: use.step }}>
              {use.chain}
            </Link>{" "}
            <span className="soft">{use.step}</span>
          </div>
        ))
      ),
  },
  { title: "Works?", className: "works", cell: works },
];

function Found({ look, name, ask }: { look: Look | undefined; name: string; ask: () => void }) {
  return (
    <div role="status">
      {look !== undefined && look !== "looking" && (
        <div className="state" data-state={look.works ? "succeeded" : "failed"}>
          <span className="mark" aria-hidden>
            {look.works ? "✓" : "✕"}
          </span>{" "}
          {look.works ? "works" : "does not work"}
          {look.ms > 0 && <span className="soft">{Math.round(look.ms)} ms</span>}
        </div>
      )}
      {look !== undefined && look !== "looking" && <div className="small">{look.found}</div>}
      <Allowed permission="design">
        <Button
          size="compact-xs"
          variant="default"
          loading={look === "looking"}
          aria-label={`${look === undefined ? "Test" : "Test again"} ${name}`}
          onClick={ask}
        >
          {look === undefined ? "Test" : "Test again"}
        </Button>
      </Allowed>
    </div>
  );
}
