import { Allowed } from "../parts/access/Allowed";
import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useNow } from "../app/useNow";
import type { FileInfo } from "../core/api/types";
import { aboutFiles } from "../core/files/kinds";
import { bytes, clock } from "../core/format";
import { NewFile } from "../parts/files/NewFile";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { DataTable, type Column } from "../parts/table/DataTable";
import { filesQuery } from "../queries/files";
import "../parts/files/files.css";

/** What stands beside the chains of the workspace: settings, and the files that chains use. */
export function FilesPage() {
  const { data, error } = useQuery(filesQuery);
  const [text, setText] = useState("");
  const [making, setMaking] = useState(false);
  const now = useNow(false);
  const shown = (data ?? []).filter((f) =>
    `${f.path} ${f.usedBy.join(" ")}`.toLowerCase().includes(text.toLowerCase()),
  );
  return (
    <Page
      title="Files"
      error={error}
      facts={
        <TextInput
          size="xs"
          aria-label="Find a file"
          placeholder="Find a file, or a chain that uses it"
          w={280}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
        />
      }
      actions={
        <Allowed permission="design">
          <Button size="compact-sm" variant="default" onClick={() => setMaking(true)}>
            New file…
          </Button>
        </Allowed>
      }
    >
      {data?.length === 0 && (
        <EmptyState>
          Nothing stands beside the chains yet. Connections, profiles, lanes, calendars and triggers are files of the
          workspace: make one here, or push a folder that has them.
        </EmptyState>
      )}
      {shown.length > 0 && <DataTable columns={columns(now)} rows={shown} keyOf={(f) => f.path} />}
      {data && data.length > 0 && shown.length === 0 && <EmptyState>No file is called so.</EmptyState>}
      {making && <NewFile files={data ?? []} close={() => setMaking(false)} />}
    </Page>
  );
}

const columns = (now: number): Column<FileInfo>[] => [
  {
    title: "File",
    cell: (f) => (
      <Link to="/files/edit" search={{ path: f.path }} className="mono">
        {f.path}
      </Link>
    ),
  },
  { title: "What it is", cell: (f) => aboutFiles[f.kind] ?? f.kind },
  { title: "Used by", cell: (f) => f.usedBy.join(", ") },
  { title: "Changed", cell: (f) => `${clock(f.at, now)} by ${f.by}` },
  { title: "Size", numeric: true, cell: (f) => bytes(f.size) },
];
