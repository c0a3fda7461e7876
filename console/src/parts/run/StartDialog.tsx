import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import { startRun } from "../../core/api/client";
import type { ChainDetail } from "../../core/api/types";
import { typed } from "../../core/format";
import { triggersOfQuery } from "../../queries/triggers";
import { FormDialog } from "../page/FormDialog";
import { ParameterFields, type Given } from "./ParameterFields";

/** Which trigger would give which parameters. */
function TriggerHints({ chain }: { chain: string }) {
  const triggers = useQuery(triggersOfQuery(chain));
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
  const start = async () => {
    const values = Object.fromEntries(Object.entries(given).filter(([, text]) => text !== ""));
    const run = await act("The run was not started", () =>
      startRun(chain.name, values, profile === "" ? null : profile),
    );
    if (run) await navigate({ to: "/runs/$id", params: { id: String(run.id) } });
  };
  return (
    <FormDialog title={`Run ${chain.title ?? chain.name}`} submitLabel="Start" submit={start} close={close}>
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
    </FormDialog>
  );
}
