import { Button, Modal, PasswordInput, Textarea, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import { useNow } from "../../app/useNow";
import { removeSecret, setSecret } from "../../core/api/client";
import type { SecretInfo } from "../../core/api/types";
import { clock } from "../../core/format";

/** Which secrets there are and which are missing. They can be set, and never be read. */
export function SecretTable({ secrets }: { secrets: SecretInfo[] }) {
  const [setting, setSetting] = useState<string | null>(null);
  const queries = useQueryClient();
  const now = useNow(false);
  const again = () => queries.invalidateQueries({ queryKey: ["secrets"] });
  return (
    <>
      <div className="labelrow">
        <span className="soft small">
          Encrypted on disk, and shown to nobody. A connection or a step names one as <code>secret:name</code>.
        </span>
        <Button size="compact-xs" variant="default" onClick={() => setSetting("")}>
          New secret…
        </Button>
      </div>
      {secrets.length === 0 && <div className="sheet empty">There are no secrets, and no connection asks for one.</div>}
      {secrets.length > 0 && (
        <div className="sheet">
          <table className="dense">
            <thead>
              <tr>
                <th>Secret</th>
                <th>State</th>
                <th>Asked for by</th>
                <th>
                  <span className="visuallyhidden">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {secrets.map((s) => (
                <tr key={s.name} data-secret={s.name}>
                  <td>
                    <strong>{s.name}</strong>
                  </td>
                  <td>
                    {s.isSet && s.readable && (
                      <span className="state" data-state="succeeded">
                        <span className="mark" aria-hidden>
                          ✓
                        </span>{" "}
                        set{" "}
                        <span className="soft">
                          by {s.by}, {s.changed != null ? clock(s.changed, now) : ""}
                        </span>
                      </span>
                    )}
                    {s.isSet && !s.readable && (
                      <span className="state" data-state="failed">
                        <span className="mark" aria-hidden>
                          ✕
                        </span>{" "}
                        set with another key; set it anew
                      </span>
                    )}
                    {!s.isSet && (
                      <span className="state" data-state="failed">
                        <span className="mark" aria-hidden>
                          ✕
                        </span>{" "}
                        not set
                      </span>
                    )}
                  </td>
                  <td>{s.usedBy.length > 0 ? s.usedBy.join(", ") : <span className="soft">no connection</span>}</td>
                  <td className="num">
                    <Button
                      size="compact-xs"
                      variant="default"
                      aria-label={`${s.isSet ? "Set anew…" : "Set…"} ${s.name}`}
                      onClick={() => setSetting(s.name)}
                    >
                      {s.isSet ? "Set anew…" : "Set…"}
                    </Button>{" "}
                    {s.isSet && (
                      <Button
                        size="compact-xs"
                        variant="default"
                        aria-label={`Remove ${s.name}`}
                        onClick={() =>
                          void act("The secret was not removed", async () => {
                            await removeSecret(s.name);
                            await again();
                          })
                        }
                      >
                        Remove
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {setting !== null && <SecretDialog name={setting} close={() => setSetting(null)} done={again} />}
    </>
  );
}

function SecretDialog({ name, close, done }: { name: string; close: () => void; done: () => Promise<void> }) {
  const [chosen, setChosen] = useState(name);
  const [value, setValue] = useState("");
  const [long, setLong] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const save = async () => {
    try {
      await setSecret(chosen, value);
      await done();
      close();
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <Modal
      opened
      onClose={close}
      closeButtonProps={{ "aria-label": "Close" }}
      title={name === "" ? "New secret" : `Set ${name}`}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        {name === "" && (
          <TextInput
            size="xs"
            label="Name"
            description="Letters, digits, - and _"
            value={chosen}
            onChange={(e) => setChosen(e.currentTarget.value)}
            data-autofocus
          />
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
        {refused !== null && (
          <div className="errorbox" role="alert">
            {refused}
          </div>
        )}
        <div className="dialogbuttons">
          <Button size="xs" variant="default" onClick={close}>
            Cancel
          </Button>
          <Button size="xs" type="submit" disabled={chosen === "" || value === ""}>
            Set
          </Button>
        </div>
      </form>
    </Modal>
  );
}
