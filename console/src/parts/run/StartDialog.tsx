import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { startRun } from "../../core/api/client";
import type { ChainDetail } from "../../core/api/types";
import { defaultsOf, keepValues, lastValues } from "../../core/designer/parameters";
import { readAll, refusedField, type Given } from "../../core/values/typed";
import { triggersOfQuery } from "../../queries/triggers";
import { FormDialog } from "../page/FormDialog";
import { focusWrong } from "../form/focusWrong";
import { LastValues } from "../form/LastValues";
import { ParameterFields } from "../form/ParameterFields";

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
  const [given, setGiven] = useState<Given>(() => defaultsOf(chain.params));
  const last = lastValues(chain.name);
  const [sent, setSent] = useState(false);
  const [refused, setRefused] = useState<string>();
  const { values, wrong } = readAll(chain.params, given);
  const change = (next: Given) => {
    setGiven(next);
    setRefused(undefined);
  };
  const [profile, setProfile] = useState(chain.profiles[0] ?? "");
  const start = async () => {
    setSent(true);
    if (Object.keys(wrong).length > 0) {
      focusWrong();
      return;
    }
    try {
      const run = await startRun(chain.name, values, profile === "" ? null : profile);
      keepValues(chain.name, given);
      await navigate({ to: "/runs/$id", params: { id: String(run.id) } });
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
      focusWrong();
    }
  };
  const told = Object.fromEntries(
    chain.params.map((p) => [p.name, (sent ? wrong[p.name] : undefined) ?? refusedField(refused, p.name)]),
  );
  const isTold = refused === undefined || chain.params.some((p) => refusedField(refused, p.name) !== undefined);
  return (
    <FormDialog
      title={`Run ${chain.title ?? chain.name}`}
      submitLabel="Start"
      submit={start}
      close={close}
      error={isTold ? null : refused}
    >
      <TriggerHints chain={chain.name} />
      <LastValues params={chain.params} given={given} last={last} take={change} />
      <ParameterFields
        parameters={chain.params}
        given={given}
        change={change}
        wrong={told}
        last={last}
        folder={chain.area}
      />
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
