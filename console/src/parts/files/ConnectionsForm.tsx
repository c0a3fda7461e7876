import { Button, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { tryConnection } from "../../core/api/files";
import type { ConnectionCheckInfo, ConnectionTypeInfo } from "../../core/api/types";
import { entriesOf, putEntry, readEntry, type Entry } from "../../core/document/entries";
import { fieldsOf, textOf } from "../../core/files/connectionForm";
import { readTyped } from "../../core/values/typed";
import { connectionTypesQuery } from "../../queries/files";
import { secretsQuery } from "../../queries/service";
import { AddName } from "../form/AddName";
import { ValueField } from "../form/ValueField";
import { EmptyState } from "../page/EmptyState";
import type { FormProps } from "./formProps";

/** The connections of a file: a form after the type of the one that is chosen, and whether it works. */
export function ConnectionsForm({ path, text, change, entry, choose }: FormProps) {
  const all = entriesOf(text) ?? {};
  const names = Object.keys(all);
  const chosen = entry !== undefined && names.includes(entry) ? entry : names[0];
  const types = useQuery(connectionTypesQuery).data;
  // A form without its types would jump when they come.
  if (!types) return null;
  const add = (name: string) => {
    change(putEntry(text, null, name, { type: types[0]?.name ?? "folder" }));
    choose(name);
  };
  return (
    <div className="entryform">
      <div className="entrylist">
        <ul aria-label="Connections">
          {names.map((n) => (
            <li key={n}>
              <button type="button" aria-current={n === chosen} onClick={() => choose(n)}>
                {n} <span className="soft small">{String(all[n]?.type ?? "")}</span>
              </button>
            </li>
          ))}
        </ul>
        <AddName
          label="Name of a new connection"
          placeholder="a new one"
          fits={(name) => /^[A-Za-z][\w-]*$/.test(name) && !names.includes(name)}
          add={add}
        />
      </div>
      {chosen === undefined ? (
        <EmptyState>There are no connections here yet. Name one at the left.</EmptyState>
      ) : (
        <Connection
          key={chosen}
          types={types}
          path={path}
          text={text}
          name={chosen}
          put={(before, next, value) => {
            change(putEntry(text, before, next, value));
            choose(value === null ? undefined : next);
          }}
        />
      )}
    </div>
  );
}

function Connection({
  types,
  path,
  text,
  name,
  put,
}: {
  types: readonly ConnectionTypeInfo[];
  path: string;
  text: string;
  name: string;
  put: (before: string, name: string, entry: Entry | null) => void;
}) {
  const secrets = useQuery(secretsQuery).data ?? [];
  const entry = readEntry(text, name) ?? {};
  const type = types.find((t) => t.name === entry.type);
  // What can't be read as its type yet stands only here.
  const [wrong, setWrong] = useState<Readonly<Record<string, string>>>({});
  const [look, setLook] = useState<"looking" | ConnectionCheckInfo | null>(null);
  const set = (key: string, value: unknown) => {
    const next = { ...entry };
    if (value === undefined) Reflect.deleteProperty(next, key);
    else next[key] = value;
    setLook(null);
    put(name, name, next);
  };
  const give = (key: string, fieldType: string, said: string | undefined) => {
    const read = said === undefined ? { value: undefined } : readTyped(fieldType, said);
    if ("wrong" in read) setWrong({ ...wrong, [key]: said ?? "" });
    else {
      setWrong(Object.fromEntries(Object.entries(wrong).filter(([k]) => k !== key)));
      set(key, read.value);
    }
  };
  const test = async () => {
    setLook("looking");
    setLook(
      await tryConnection(path, text, name).catch((e: unknown) => ({
        works: false,
        found: e instanceof Error ? e.message : String(e),
        ms: 0,
      })),
    );
  };
  return (
    <div className="entry" role="group" aria-label={`Connection ${name}`}>
      <NativeSelect
        label="Type"
        description={type?.doc.replaceAll("`", "")}
        value={String(entry.type ?? "")}
        data={types.map((t) => t.name)}
        onChange={(e) => {
          // What the other type has too stays.
          const fields = fieldsOf(
            types.find((t) => t.name === e.currentTarget.value) ?? { name: "", doc: "", schema: {} },
          );
          const kept = Object.entries(entry).filter(([key]) => fields.some((f) => f.name === key));
          put(name, name, { type: e.currentTarget.value, ...Object.fromEntries(kept) });
        }}
      />
      {(type ? fieldsOf(type) : []).map((field) =>
        field.choices.length > 0 ? (
          <NativeSelect
            key={field.name}
            mt="sm"
            label={field.name}
            description={field.doc}
            required={field.required}
            value={textOf(entry[field.name]) ?? ""}
            data={[
              { value: "", label: field.standard === "" ? "" : `${field.standard} (when absent)` },
              ...field.choices,
            ]}
            onChange={(e) => set(field.name, e.currentTarget.value === "" ? undefined : e.currentTarget.value)}
          />
        ) : (
          <ValueField
            key={field.name}
            type={field.type}
            label={field.name}
            description={field.doc + (field.standard === "" ? "" : ` (${field.standard} when absent)`)}
            required={field.required}
            emptyCounts={false}
            text={wrong[field.name] ?? textOf(entry[field.name])}
            offered={/secret:/.test(field.doc) ? secrets.map((s) => `secret:${s.name}`) : []}
            change={(said) => give(field.name, field.type, said)}
          />
        ),
      )}
      <div className="entryfoot">
        <Button size="compact-sm" variant="default" loading={look === "looking"} onClick={() => void test()}>
          Test
        </Button>
        <Button size="compact-sm" variant="subtle" color="red" onClick={() => put(name, name, null)}>
          Remove from the file
        </Button>
        {look !== null && look !== "looking" && (
          <span className="state" data-state={look.works ? "succeeded" : "failed"} role="status">
            <span className="mark" aria-hidden>
              {look.works ? "✓" : "✕"}
            </span>{" "}
            {look.works ? `works: ${look.found}` : look.found}
          </span>
        )}
      </div>
    </div>
  );
}
