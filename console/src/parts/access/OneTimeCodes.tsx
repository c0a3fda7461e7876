import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { renderSVG } from "uqr";
import { act } from "../../app/act";
import { beginCodes, removeCodes, setCodes } from "../../core/api/access";
import { useMay } from "../../queries/access";
import { keys } from "../../queries/keys";
import { FormDialog } from "../page/FormDialog";

/** Turns one-time codes on or off. */
export function OneTimeCodes() {
  const [begun, setBegun] = useState<{ secret: string; address: string } | null>(null);
  const [ending, setEnding] = useState(false);
  const { session } = useMay();
  return (
    <>
      <p className="soft small">
        With one-time codes a password that somebody has seen is not enough. An authenticator on your phone shows them.
      </p>
      <div className="rowactions" style={{ justifyContent: "flex-start" }}>
        {session?.hasCodes === true ? (
          <Button size="compact-sm" variant="default" onClick={() => setEnding(true)}>
            Turn them off…
          </Button>
        ) : (
          <Button
            size="compact-sm"
            variant="default"
            onClick={() =>
              void act("It could not be begun", async () => {
                setBegun(await beginCodes());
              })
            }
          >
            Set them up…
          </Button>
        )}
      </div>
      {begun && <SetUp begun={begun} close={() => setBegun(null)} />}
      {ending && <TurnOff close={() => setEnding(false)} />}
    </>
  );
}

function SetUp({ begun, close }: { begun: { secret: string; address: string }; close: () => void }) {
  const queries = useQueryClient();
  const [code, setCode] = useState("");
  const [recovery, setRecovery] = useState<readonly string[] | null>(null);
  if (recovery) {
    return (
      <FormDialog
        title="Write these down"
        submitLabel="I have them"
        close={close}
        submit={() => {
          close();
          return queries.invalidateQueries({ queryKey: keys.session });
        }}
      >
        <p>Each of these lets you in once when your device is lost. They are not shown again.</p>
        <ul className="codes sheet" aria-label="Recovery codes">
          {recovery.map((r) => (
            <li key={r}>{r}</li>
          ))}
        </ul>
      </FormDialog>
    );
  }
  return (
    <FormDialog
      title="One-time codes"
      submitLabel="Turn them on"
      close={close}
      disabled={code.trim() === ""}
      submit={async () => {
        setRecovery((await setCodes(begun.secret, code)).codes);
      }}
    >
      <p>Take this picture with your authenticator, or type the key.</p>
      <div
        className="qr"
        role="img"
        aria-label="The key as a picture"
        dangerouslySetInnerHTML={{ __html: renderSVG(begun.address, { border: 0 }) }}
      />
      <p className="shownonce">{begun.secret.replace(/(.{4})/g, "$1 ")}</p>
      <TextInput
        label="The code that it shows now"
        value={code}
        onChange={(e) => setCode(e.currentTarget.value)}
        inputMode="numeric"
        autoComplete="one-time-code"
        data-autofocus
      />
    </FormDialog>
  );
}

function TurnOff({ close }: { close: () => void }) {
  const queries = useQueryClient();
  const [password, setPassword] = useState("");
  return (
    <FormDialog
      title="Turn one-time codes off?"
      submitLabel="Turn them off"
      close={close}
      disabled={password === ""}
      submit={async () => {
        await removeCodes(password);
        await queries.invalidateQueries({ queryKey: keys.session });
        close();
      }}
    >
      <PasswordInput
        label="Your password"
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
        autoComplete="current-password"
        data-autofocus
      />
    </FormDialog>
  );
}
