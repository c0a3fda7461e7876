import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import type { ChainDetail } from "../../core/api/types";
import { nameOfUse } from "../../core/chainLists";
import { clock } from "../../core/format";
import { useChainCommands, usesQuery } from "../../queries/chains";
import { FormDialog } from "../page/FormDialog";

/** Takes a chain out of use, after saying what starts it. */
export function RetireButton({ chain }: { chain: string }) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button size="xs" variant="default" onClick={() => setAsking(true)}>
        Retire…
      </Button>
      {asking && <RetireDialog chain={chain} close={() => setAsking(false)} />}
    </>
  );
}

function RetireDialog({ chain, close }: { chain: string; close: () => void }) {
  const { retire } = useChainCommands();
  const [why, setWhy] = useState("");
  const [error, setError] = useState<Error | null>(null);
  const { data: uses } = useQuery(usesQuery(chain));
  return (
    <FormDialog
      title={`Retire ${chain}`}
      submitLabel="Retire it"
      close={close}
      error={error}
      submit={async () => {
        try {
          await retire(chain, why.trim() === "" ? null : why);
          close();
        } catch (e) {
          setError(e as Error);
        }
      }}
    >
      <p>
        Nothing starts it any more until it is brought back. Its runs stay, and those that have not ended continue and
        can be resumed.
      </p>
      {uses && uses.length > 0 && (
        <div className="notice bad" role="alert">
          <div>
            In use: what starts it fails from now on.
            <ul className="small">
              {uses.map((use, i) => (
                <li key={i}>
                  <b>{nameOfUse(use)}</b>
                </li>
              ))}
            </ul>
          </div>
        </div>
      )}
      <TextInput
        label="Why"
        description="Shown with the chain, and to whoever tries to start it"
        maxLength={1000}
        value={why}
        onChange={(e) => setWhy(e.currentTarget.value)}
        data-autofocus
        mt="sm"
      />
    </FormDialog>
  );
}

/** Says above a retired chain that it is one; nothing for a chain in use. */
export function RetiredNotice({ chain }: { chain: ChainDetail }) {
  const { bringBack } = useChainCommands();
  if (!chain.retired) return null;
  const { by, at, why } = chain.retired;
  return (
    <div className="notice" role="status">
      <span>
        <b>Retired</b> by {by}, {clock(at)}
        {why == null ? "." : `: ${why}.`.replace("..", ".")} Nothing starts it; its runs can still be resumed.
      </span>
      <Button
        size="xs"
        variant="default"
        onClick={() => void act("It was not brought back", () => bringBack(chain.name))}
      >
        Bring it back
      </Button>
    </div>
  );
}
