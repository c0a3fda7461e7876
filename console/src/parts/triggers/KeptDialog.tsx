import { Button, Modal, TextInput } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import type { KeptInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { useChainCommands } from "../../queries/chains";

/** What a chain keeps from run to run, profile by profile; each value can be set, or begin again. */
export function KeptDialog({ chain, kept, close }: { chain: string; kept: KeptInfo[]; close: () => void }) {
  return (
    <Modal opened onClose={close} size="lg" title={`What ${chain} keeps from run to run`}>
      <p className="small soft">
        The next run begins with these values. A run that is going when one is changed keeps nothing of its own.
      </p>
      {kept.map((k) => (
        <section key={k.profile}>
          <h3 className="small">
            {k.profile === "" ? "Without a profile" : `Profile ${k.profile}`}{" "}
            <span className="soft">
              version {k.version},{" "}
              {k.run !== null ? (
                <Link to="/runs/$id" params={{ id: String(k.run) }}>
                  of run {k.run}
                </Link>
              ) : (
                `set by ${k.by ?? "somebody"}`
              )}
              , {clock(k.at)}
            </span>
          </h3>
          {Object.entries(k.values as Record<string, unknown>).map(([name, value]) => (
            <KeptValue key={`${name} ${String(k.version)}`} {...{ chain, profile: k.profile, name, value }} />
          ))}
        </section>
      ))}
    </Modal>
  );
}

function KeptValue({ chain, profile, name, value }: { chain: string; profile: string; name: string; value: unknown }) {
  const { setKept } = useChainCommands();
  const shown = typeof value === "string" ? value : JSON.stringify(value);
  const [typed, setTyped] = useState(shown);
  const change = (set: Record<string, unknown>, reset: string[]) =>
    act("Nothing was changed", () => setKept(chain, profile, set, reset));
  return (
    <div className="keptvalue">
      <TextInput
        size="xs"
        label={name}
        className="mono"
        value={typed}
        onChange={(e) => setTyped(e.currentTarget.value)}
      />
      <Button size="xs" disabled={typed === shown} onClick={() => void change({ [name]: typed }, [])}>
        Set
      </Button>
      <Button size="xs" variant="default" onClick={() => void change({}, [name])}>
        Reset
      </Button>
    </div>
  );
}
