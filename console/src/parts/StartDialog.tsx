import { Button, Group, Modal, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../app/act";
import { listTriggers, startRun } from "../core/api/client";
import type { ChainDetail } from "../core/api/types";
import { typed } from "../core/format";
import { ParameterFields, type Given } from "./ParameterFields";

/** Which trigger would give which parameters. */
function TriggerHints({ chain }: { chain: string }) {
  const triggers = useQuery({ queryKey: ["triggers", "of", chain], queryFn: () => listTriggers(chain) });
  const giving = (triggers.data ?? []).filter((t) => Object.keys(t.params).length > 0);
  if (giving.length === 0) return null;
  return (
    <details className="small soft">
      <summary>What triggers give it</summary>
      {giving.map((t) => (
        <div key={t.name}>
          {t.name} ({t.sentence}):{" "}
          {Object.entries(t.params).map(([name, expression]) => (
            <span key={name}>
              <code>
                {name} = {expression}
              </code>{" "}
            </span>
          ))}
        </div>
      ))}
    </details>
  );
}

/** Asks for the parameters and starts a run. */
export function StartDialog({ chain, close }: { chain: ChainDetail; close: () => void }) {
  const navigate = useNavigate();
  const [given, setGiven] = useState<Given>(() =>
    Object.fromEntries(chain.params.map((p) => [p.name, typed(p.default)])),
  );
  const [profile, setProfile] = useState(chain.profiles[0] ?? "");
  const [busy, setBusy] = useState(false);
  const start = async () => {
    setBusy(true);
    const values = Object.fromEntries(Object.entries(given).filter(([, text]) => text !== ""));
    const run = await act("The run was not started", () =>
      startRun(chain.name, values, profile === "" ? null : profile),
    );
    setBusy(false);
    if (run) await navigate({ to: "/runs/$id", params: { id: String(run.id) } });
  };
  return (
    <Modal
      opened
      onClose={close}
      title={`Run ${chain.title ?? chain.name}`}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void start();
        }}
      >
        <TriggerHints chain={chain.name} />
        <ParameterFields parameters={chain.params} given={given} change={setGiven} />
        {chain.profiles.length > 1 && (
          <NativeSelect
            mt="sm"
            label="Profile"
            value={profile}
            onChange={(e) => setProfile(e.currentTarget.value)}
            data={chain.profiles}
          />
        )}
        <Group mt="lg" justify="flex-end">
          <Button variant="default" onClick={close}>
            Cancel
          </Button>
          <Button type="submit" loading={busy}>
            Start
          </Button>
        </Group>
      </form>
    </Modal>
  );
}
