import { Group, Modal, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { act } from "../../app/act";
import { saveTriggers } from "../../core/api/client";
import type { TriggerFile, TriggerFileAnswer } from "../../core/api/types";
import { putEntry, readEntry } from "../../core/document/entries";
import { blank, kindOf, kinds, settingsOf, type TriggerEntry, type TriggerKind } from "../../core/triggers/form";
import { inZone, placeOf } from "../../core/triggers/words";
import { SourceFields } from "./SourceFields";
import { chainQuery, chainsQuery } from "../../queries/chains";
import { triggerFilesQuery, useTriggerCommands } from "../../queries/triggers";
import { ConfirmButton } from "../page/ConfirmButton";
import { ErrorBox } from "../page/ErrorBox";
import { FormDialog } from "../page/FormDialog";

/** Edits a trigger, or makes a new one. What the form does not know of the file stays as it is. */
export function TriggerEditor({ name, close }: { name: string | null; close: () => void }) {
  const files = useQuery(triggerFilesQuery);
  const file = files.data?.find((f) => name !== null && readEntry(f.content, name) !== null) ?? files.data?.[0];
  const title = name === null ? "New trigger" : `Edit ${name}`;
  return file ? (
    <Form title={title} name={name} file={file} close={close} />
  ) : (
    <Modal opened onClose={close} size="xl" title={title}>
      <ErrorBox error={files.error} />
    </Modal>
  );
}

function Form({
  title,
  name,
  file,
  close,
}: {
  title: string;
  name: string | null;
  file: TriggerFile;
  close: () => void;
}) {
  const commands = useTriggerCommands();
  const navigate = useNavigate();
  const chains = useQuery(chainsQuery);
  const [called, setCalled] = useState(name ?? "");
  const [entry, setEntry] = useState<TriggerEntry>(
    () => (name === null ? null : readEntry(file.content, name)) ?? blank("schedule", ""),
  );
  const kind = kindOf(entry) ?? "schedule";
  const chain = useQuery({ ...chainQuery(entry.chain ?? ""), enabled: (entry.chain ?? "") !== "" });
  const complete = called.trim() !== "" && (entry.chain ?? "") !== "";
  const text = putEntry(file.content, name, called.trim() || "new", entry);
  const said = useChecked(file.path, text);
  const sketch = said?.triggers.find((t) => t.name === (called.trim() || "new"));
  const params = (entry.params ?? {}) as Record<string, unknown>;
  const change = (key: string, value: unknown) => {
    const next = { ...entry };
    if (value === undefined || value === "") Reflect.deleteProperty(next, key);
    else next[key] = value;
    setEntry(next);
  };
  const give = (parameter: string, expression: string) => {
    const next = Object.fromEntries(
      Object.entries({ ...params, [parameter]: expression }).filter(([, value]) => value !== ""),
    );
    change("params", Object.keys(next).length > 0 ? next : undefined);
  };
  const save = async (content: string, then: string | undefined) => {
    const saved = await act("Nothing was saved", async () => {
      const answer = await commands.save(file.path, content, file.version);
      if (answer.version === null)
        throw new Error(answer.problems.map((p) => `line ${String(p.line)}: ${p.message}`).join("\n"));
      return answer;
    });
    if (!saved) return;
    close();
    await navigate({ to: "/triggers", search: { name: then } });
  };
  const errors = said?.problems.filter((p) => p.severity === "error") ?? [];
  return (
    <FormDialog
      title={title}
      submitLabel="Save"
      submit={() => save(text, called.trim())}
      close={close}
      disabled={!complete || errors.length > 0}
      size="xl"
      className="triggerform"
      extra={
        name !== null && (
          <ConfirmButton
            variant="default"
            label="Delete…"
            question={`Delete the trigger ${name}?`}
            confirmLabel="Delete"
            confirm={() => save(putEntry(file.content, name, name, null), undefined)}
          >
            It starts no run any more. Its fires stay in the list.
          </ConfirmButton>
        )
      }
    >
      <Group grow align="start">
        <TextInput
          label="Name"
          required
          value={called}
          onChange={(e) => setCalled(e.currentTarget.value)}
          description={
            name !== null && called !== name
              ? "Another name makes another trigger, without the fires of this one"
              : undefined
          }
        />
        <NativeSelect
          label="Starts the chain"
          required
          value={entry.chain ?? ""}
          onChange={(e) => change("chain", e.currentTarget.value)}
          data={["", ...(chains.data ?? []).filter((c) => !c.retired || c.name === entry.chain).map((c) => c.name)]}
        />
        <NativeSelect
          label="It fires"
          value={kind}
          onChange={(e) => {
            const rest = Object.fromEntries(Object.entries(entry).filter(([key]) => key !== kind));
            setEntry({ ...blank(e.currentTarget.value as TriggerKind, entry.chain ?? ""), ...rest });
          }}
          data={kinds.map((k) => ({ value: k.kind, label: k.label }))}
        />
      </Group>
      <SourceFields kind={kind} settings={settingsOf(entry)} change={(settings) => change(kind, settings)} />
      {sketch && (
        <div className="preview" aria-live="polite">
          <b>Fires {sketch.sentence}.</b>
          {sketch.next.length > 0 && (
            <ol className="times">
              {sketch.next.map((at) => (
                <li key={at} className="mono">
                  {inZone(at, zoneOf(entry))} {placeOf(zoneOf(entry))}
                </li>
              ))}
            </ol>
          )}
        </div>
      )}
      {(chain.data?.params ?? []).length > 0 && (
        <fieldset>
          <legend>What the chain is given</legend>
          {chain.data?.params.map((p) => (
            <TextInput
              key={p.name}
              size="xs"
              label={`${p.label ?? p.name} (${p.type}${p.default === null || p.default === undefined ? "" : ", or what the chain says"})`}
              placeholder={`an expression over event, for example ${hint[kind]}`}
              value={
                typeof params[p.name] === "string"
                  ? (params[p.name] as string)
                  : JSON.stringify(params[p.name] ?? "").replace(/^""$/, "")
              }
              onChange={(e) => give(p.name, e.currentTarget.value)}
              styles={{ input: { fontFamily: "var(--mono, monospace)" } }}
            />
          ))}
        </fieldset>
      )}
      <Group grow align="start">
        <TextInput
          label="Only when (an expression; optional)"
          value={typeof entry.when === "string" ? entry.when : ""}
          onChange={(e) => change("when", e.currentTarget.value)}
        />
        {(chain.data?.profiles.length ?? 0) > 0 && (
          <NativeSelect
            label="Profile"
            value={typeof entry.profile === "string" ? entry.profile : ""}
            onChange={(e) => change("profile", e.currentTarget.value)}
            data={["", ...(chain.data?.profiles ?? [])]}
          />
        )}
      </Group>
      {complete && errors.length > 0 && (
        <ErrorBox>
          {errors.map((p) => (
            <div key={`${String(p.line)}${p.message}`}>
              {p.message}
              {p.fix ? ` (${p.fix})` : ""}
            </div>
          ))}
        </ErrorBox>
      )}
      <details>
        <summary className="small soft">
          As it stands in <code>{file.path}</code>
        </summary>
        <Textarea readOnly autosize maxRows={14} value={text} aria-label="The file" />
      </details>
    </FormDialog>
  );
}

const hint: Record<TriggerKind, string> = {
  schedule: "event.due or event.period.from",
  arrival: "event.path",
  hook: "event.body.customer",
  watch: "event.probes.seen.count",
  outcome: "event.run",
};

const zoneOf = (entry: TriggerEntry) => {
  const zone = settingsOf(entry).zone;
  return typeof zone === "string" && zone !== "" ? zone : null;
};

/** What the service says of a text, a moment after it was typed. */
function useChecked(path: string, text: string): TriggerFileAnswer | null {
  const [said, setSaid] = useState<TriggerFileAnswer | null>(null);
  useEffect(() => {
    let over = false;
    const timer = setTimeout(() => {
      saveTriggers(path, text, null)
        .then((answer) => {
          if (!over) setSaid(answer);
        })
        .catch(() => {
          if (!over) setSaid(null);
        });
    }, 200);
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, [path, text]);
  return said;
}
