import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi, Link } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import type { DatasetUsesInfo, LineageInfo } from "../core/api/types";
import { nameOf } from "../core/lineage/flows";
import { FlowDrawing } from "../parts/data/FlowDrawing";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { DataTable, type Column } from "../parts/table/DataTable";
import { dataQuery, lineageQuery } from "../queries/keeping";
import "../parts/data/data.css";

const route = getRouteApi("/data");

/** The files, tables and addresses that chains read and write; of one of them where it comes from and goes. */
export function DataPage() {
  const { name } = route.useSearch();
  return name === undefined ? <All /> : <One name={name} />;
}

type Step = DatasetUsesInfo["writers"][number];

function Chains({ steps }: { steps: readonly Step[] }) {
  const chains = [...new Set(steps.map((s) => s.chain))];
  return (
    <>
      {chains.map((chain, i) => (
        <span key={chain}>
          {i > 0 && ", "}
          <Link to="/chains/$name" params={{ name: chain }}>
            {chain}
          </Link>
        </span>
      ))}
    </>
  );
}

const columns: Column<DatasetUsesInfo>[] = [
  {
    title: "Data",
    cell: (uses) => (
      <Link className="mono" to="/data" search={{ name: nameOf(uses.data) }}>
        {nameOf(uses.data)}
      </Link>
    ),
  },
  { title: "Is", cell: (uses) => uses.data.form },
  { title: "Written by", cell: (uses) => <Chains steps={uses.writers} /> },
  { title: "Read by", cell: (uses) => <Chains steps={uses.readers} /> },
];

function All() {
  const { data, error } = useQuery(dataQuery);
  const [text, setText] = useState("");
  const wanted = useDeferredValue(text.trim().toLowerCase());
  const shown = data?.filter((uses) =>
    [nameOf(uses.data), ...[...uses.writers, ...uses.readers].map((s) => s.chain)].some((t) =>
      t.toLowerCase().includes(wanted),
    ),
  );
  return (
    <Page title="Data" error={error}>
      {data?.length === 0 && (
        <EmptyState>
          No chain reads or writes anything yet that it tells of. Steps that load, check, transfer or call do, and SQL
          as far as its words tell.
        </EmptyState>
      )}
      {data && data.length > 0 && (
        <>
          <p className="soft">
            What the latest releases read and write, as they are declared: <code>*</code> and <code>{"${…}"}</code>{" "}
            stand for anything.
          </p>
          <TextInput
            label="Find"
            placeholder="a table, a file, a chain"
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
            maw={360}
            mb="md"
          />
          {shown?.length === 0 ? (
            <EmptyState>Nothing has these letters in it.</EmptyState>
          ) : (
            <DataTable
              columns={columns}
              rows={shown ?? []}
              keyOf={(uses) => `${uses.data.form} ${nameOf(uses.data)}`}
            />
          )}
        </>
      )}
    </Page>
  );
}

function One({ name }: { name: string }) {
  const { data, error } = useQuery(lineageQuery(name));
  return (
    <Page
      title={name}
      error={error}
      facts={
        <Link to="/data" className="small">
          ← All data
        </Link>
      }
    >
      {data?.length === 0 && <EmptyState>No chain reads or writes this.</EmptyState>}
      {data?.map((found) => (
        <section key={`${found.uses.data.form} ${nameOf(found.uses.data)}`}>
          {data.length > 1 && <h2 className="mono">{nameOf(found.uses.data)}</h2>}
          <FlowDrawing found={found} />
          <Users found={found} />
        </section>
      ))}
    </Page>
  );
}

const userColumns: Column<Step & { does: string }>[] = [
  { title: "Chain", cell: (s) => s.chain },
  {
    title: "Step",
    cell: (s) => (
      <Link to="/chains/$name/design" params={{ name: s.chain }} search={{ step: s.step }}>
        {s.step}
      </Link>
    ),
  },
  { title: "Does", cell: (s) => s.does },
];

function Users({ found }: { found: LineageInfo }) {
  const rows = [
    ...found.uses.writers.map((s) => ({ ...s, does: "writes" })),
    ...found.uses.readers.map((s) => ({ ...s, does: "reads" })),
  ];
  return (
    <>
      <h2 className="second">Steps that write and read it</h2>
      <DataTable columns={userColumns} rows={rows} keyOf={(s) => `${s.chain} ${s.step} ${s.does}`} />
    </>
  );
}
