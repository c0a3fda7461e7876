import { Allowed } from "../access/Allowed";
import { Button, PasswordInput, Textarea, TextInput } from "@mantine/core";
import { useState } from "react";
import { act } from "../../app/act";
import { useNow } from "../../app/useNow";
import type { SecretInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { useServiceCommands } from "../../queries/service";
import { ConfirmButton } from "../page/ConfirmButton";
import { EmptyState } from "../page/EmptyState";
import { FormDialog } from "../page/FormDialog";
import { DataTable, type Column } from "../table/DataTable";

/** Which secrets there are and which are missing. They can be set, and never be read. */
export function SecretTable({ secrets }: { secrets: SecretInfo[] }) {
  const [setting, setSetting] = useState<string | null>(null);
  const now = useNow(false);
  return (
    <>
      <div className="labelrow">
        <span className="soft small">
          Encrypted on disk, and shown to nobody. A connection or a step names one as <code>secret:name</code>.
        </span>
        <Allowed permission="keep" tell>
          <Button size="compact-xs" variant="default" onClick={() => setSetting("")}>
            New secret…
          </Button>
        </Allowed>
      </div>
      {secrets.length === 0 ? (
        <EmptyState>There are no secrets, and no connection asks for one.</EmptyState>
      ) : (
        <DataTable
          columns={columns(now, setSetting)}
          rows={secrets}
          keyOf={(s) => s.name}
          attributes={(s) => ({ "data-secret": s.name })}
        />
      )}
      {setting !== null && <SecretDialog name={setting} close={() => setSetting(null)} />}
    </>
  );
}

const columns = (now: number, set: (name: string) => void): Column<SecretInfo>[] => [
  { title: "Secret", cell: (s) => <strong>{s.name}</strong> },
  { title: "For", cell: (s) => s.area || <span className="soft">all</span> },
  { title: "State", cell: (s) => <SecretState secret={s} now={now} /> },
  {
    title: "Used by",
    cell: (s) => (s.usedBy.length > 0 ? s.usedBy.join(", ") : <span className="soft">no connection</span>),
  },
  { title: { spoken: "Actions" }, numeric: true, cell: (s) => <SecretButtons secret={s} set={set} /> },
];

function SecretState({ secret, now }: { secret: SecretInfo; now: number }) {
  const works = secret.isSet && secret.readable;
  return (
    <span className="state" data-state={works ? "succeeded" : "failed"}>
      <span className="mark" aria-hidden>
        {works ? "✓" : "✕"}
      </span>{" "}
      {!secret.isSet ? "not set" : works ? "set " : "set with another key; set it again"}
      {works && (
        <span className="soft">
          {secret.by == null
            ? "in a file of the service’s machine"
            : `by ${secret.by}, ${secret.changed != null ? clock(secret.changed, now) : ""}`}
        </span>
      )}
    </span>
  );
}

function SecretButtons({ secret, set }: { secret: SecretInfo; set: (name: string) => void }) {
  const { removeSecret } = useServiceCommands();
  const word = secret.isSet ? "Set again…" : "Set…";
  // Those in files are set on the machine.
  if (secret.name.startsWith("file:")) return null;
  return (
    <Allowed permission="keep" folder={secret.isSet ? secret.area : undefined}>
      <Button
        size="compact-xs"
        variant="default"
        aria-label={`${word} ${secret.name}`}
        onClick={() => set(secret.name)}
      >
        {word}
      </Button>{" "}
      {secret.isSet && (
        <ConfirmButton
          size="compact-xs"
          variant="default"
          label="Remove"
          aria-label={`Remove ${secret.name}`}
          question={`Remove the secret ${secret.name}?`}
          confirmLabel="Remove"
          confirm={() => act("The secret was not removed", () => removeSecret(secret.name))}
        >
          {secret.usedBy.length > 0 && (
            <p>
              <b>{secret.usedBy.join(", ")}</b> {secret.usedBy.length === 1 ? "uses" : "use"} it: steps with{" "}
              {secret.usedBy.length === 1 ? "that connection" : "those connections"} fail until it is set again.
            </p>
          )}
          <p>Its value can’t be read back.</p>
        </ConfirmButton>
      )}
    </Allowed>
  );
}

function SecretDialog({ name, close }: { name: string; close: () => void }) {
  const { setSecret } = useServiceCommands();
  const [chosen, setChosen] = useState(name);
  const [folder, setFolder] = useState("");
  const [value, setValue] = useState("");
  const [long, setLong] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const isNew = name === "";
  const save = async () => {
    try {
      await setSecret(chosen, value, isNew ? folder : null);
      close();
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <FormDialog
      title={isNew ? "New secret" : `Set ${name}`}
      submitLabel="Set"
      submit={save}
      close={close}
      disabled={chosen === "" || value === ""}
      error={refused}
    >
      {isNew && (
        <div className="pair">
          <TextInput
            size="xs"
            label="Name"
            description="Letters, digits, - and _"
            value={chosen}
            onChange={(e) => setChosen(e.currentTarget.value)}
            data-autofocus
          />
          <TextInput
            size="xs"
            label="For"
            description="A folder; empty for all"
            placeholder="all"
            value={folder}
            onChange={(e) => setFolder(e.currentTarget.value.replace(/^\/+/, ""))}
          />
        </div>
      )}
      {long ? (
        <Textarea
          size="xs"
          mt="xs"
          label="Value"
          autosize
          minRows={4}
          maxRows={12}
          className="mono"
          autoComplete="off"
          spellCheck={false}
          value={value}
          onChange={(e) => setValue(e.currentTarget.value)}
        />
      ) : (
        <PasswordInput
          size="xs"
          mt="xs"
          label="Value"
          autoComplete="new-password"
          value={value}
          onChange={(e) => setValue(e.currentTarget.value)}
          data-autofocus={name !== "" || undefined}
        />
      )}
      <button type="button" className="linkbutton" onClick={() => setLong(!long)}>
        {long ? "One line, hidden" : "Several lines, such as a private key"}
      </button>
    </FormDialog>
  );
}
