import { Button, Checkbox, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import { removeRules, setRules } from "../../core/api/access";
import type { AreaRulesInfo } from "../../core/api/types";
import { rulesQuery, useAccessCommand } from "../../queries/access";
import { FormDialog } from "../page/FormDialog";
import { DataTable, type Column } from "../table/DataTable";

const list = (names: readonly string[] | null | undefined) =>
  names == null ? "all" : names.length === 0 ? "none" : names.join(", ");

/** What steps of folders may use. */
export function RulesTab() {
  const { data } = useQuery(rulesQuery);
  const [editing, setEditing] = useState<AreaRulesInfo | null>(null);
  const run = useAccessCommand();
  const columns: Column<AreaRulesInfo>[] = [
    { title: "Folder", cell: (r) => (r.folder === "" ? "the whole workspace" : `${r.folder}/`) },
    { title: "Programs", cell: (r) => (r.allowCommands ? list(r.programs) : "none") },
    { title: "Plug-ins", cell: (r) => list(r.plugins) },
    { title: "Hosts", cell: (r) => list(r.hosts) },
    {
      title: { spoken: "Actions" },
      cell: (r) => (
        <div className="rowactions">
          <Button size="compact-xs" variant="default" onClick={() => setEditing(r)}>
            Change…
          </Button>
          <Button
            size="compact-xs"
            variant="default"
            onClick={() => void act("Nothing was changed", () => run(removeRules(r.folder)))}
          >
            As above
          </Button>
        </div>
      ),
    },
  ];
  return (
    <>
      <p className="soft small">
        A designer decides what a chain does, and so what the service does in its name. Programs and plug-ins run as the
        service's own user: elsewhere than said here they are not allowed.
      </p>
      <div className="rowactions" style={{ marginBottom: 8 }}>
        <Button
          size="compact-sm"
          onClick={() => setEditing({ folder: "", allowCommands: false, programs: null, plugins: [], hosts: null })}
        >
          Say it for a folder…
        </Button>
      </div>
      {data && data.length > 0 && <DataTable columns={columns} rows={data} keyOf={(r) => r.folder} />}
      {editing && <RulesDialog rules={editing} close={() => setEditing(null)} />}
    </>
  );
}

const names = (text: string) => text.split(/[\s,]+/).filter((n) => n !== "");

function RulesDialog({ rules, close }: { rules: AreaRulesInfo; close: () => void }) {
  const run = useAccessCommand();
  const [folder, setFolder] = useState(rules.folder);
  const [commands, setCommands] = useState(rules.allowCommands);
  const [programs, setPrograms] = useState(rules.programs?.join(" ") ?? "");
  const [plugins, setPlugins] = useState(rules.plugins == null ? "all" : rules.plugins.join(" "));
  const [hosts, setHosts] = useState(rules.hosts?.join(" ") ?? "");
  return (
    <FormDialog
      title="What steps of a folder may use"
      submitLabel="Say so"
      close={close}
      submit={async () => {
        await run(
          setRules({
            folder: folder.replace(/^\/+|\/+$/g, ""),
            allowCommands: commands,
            programs: names(programs).length === 0 ? null : names(programs),
            plugins: plugins.trim() === "all" ? null : names(plugins),
            hosts: names(hosts).length === 0 ? null : names(hosts),
          }),
        );
        close();
      }}
    >
      <TextInput
        label="Folder"
        placeholder="the whole workspace"
        value={folder}
        onChange={(e) => setFolder(e.currentTarget.value)}
        data-autofocus
      />
      <Checkbox
        mt="md"
        label="command steps may run programs"
        checked={commands}
        onChange={(e) => setCommands(e.currentTarget.checked)}
      />
      <TextInput
        mt="sm"
        label="Only these programs"
        description="As the step's run names them; none here means all, scripts and shell lines too"
        value={programs}
        disabled={!commands}
        onChange={(e) => setPrograms(e.currentTarget.value)}
      />
      <TextInput
        mt="sm"
        label="Plug-ins"
        description="Names of kinds, or all"
        value={plugins}
        onChange={(e) => setPlugins(e.currentTarget.value)}
      />
      <TextInput
        mt="sm"
        label="Only these hosts"
        description="*.larkmoor.example for all below one; none here means all"
        value={hosts}
        onChange={(e) => setHosts(e.currentTarget.value)}
      />
    </FormDialog>
  );
}
