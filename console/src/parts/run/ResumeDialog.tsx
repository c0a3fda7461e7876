import { Checkbox, NativeSelect, Radio } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import type { RunDetail } from "../../core/api/types";
import { givenOf } from "../../core/designer/parameters";
import { readAll } from "../../core/values/typed";
import { draftQuery, releasesQuery } from "../../queries/chains";
import { resumePlanQuery, useResume } from "../../queries/runs";
import { FormDialog } from "../page/FormDialog";
import { focusWrong } from "../form/focusWrong";
import { ParameterFields } from "../form/ParameterFields";

/**
 * Continues with a run from its checkpoint: from the failing step or a chosen one, skipping steps, with parameters
 * changed.
 */
export function ResumeDialog({ run, chosen, close }: { run: RunDetail; chosen: string | null; close: () => void }) {
  const before = run.params as Record<string, unknown>;
  const atFirst = givenOf(run.parameters, (p) => before[p.name]);
  const [given, setGiven] = useState(atFirst);
  const [from, setFrom] = useState(run.state === "succeeded" ? "chosen" : "checkpoint");
  const [skip, setSkip] = useState<string[]>([]);
  const [release, setRelease] = useState("");
  const { data: releases } = useQuery(releasesQuery(run.chain));
  const { data: draft } = useQuery(draftQuery(run.chain));
  const resumeWith = useResume(run.id);
  const [busy, setBusy] = useState(false);
  // Only what the run does not follow already is a choice.
  const others = [
    ...(draft !== undefined && draft.version > 0
      ? [{ value: "draft", label: `the draft, as ${draft.author} saved it` }]
      : []),
    ...(releases ?? [])
      .filter((r) => r.release !== run.release)
      .map((r) => ({
        value: String(r.number),
        label: `release ${String(r.number)}${r === releases?.[0] ? ", the latest" : ""}${r.note == null ? "" : `: ${r.note}`}`,
      })),
  ];
  const failed = [...new Set([...run.failures, ...run.status.pausedSteps])];
  const changed = run.parameters.filter((p) => given[p.name] !== atFirst[p.name]);
  const { values, wrong } = readAll(
    changed.map((p) => ({ ...p, required: true })),
    given,
  );
  const [sent, setSent] = useState(false);
  const isWrong = Object.keys(wrong).length > 0;
  const set = Object.fromEntries(Object.entries(values).map(([name, value]) => [`params.${name}`, value]));
  const order = {
    set,
    from: from === "chosen" && chosen !== null ? [chosen] : [],
    skip,
    release: release === "" ? null : release,
  };
  // Told before it begins: what would run again, and what stays.
  const { data: plan, error: refused } = useQuery({
    ...resumePlanQuery(run.id, run.seq, order),
    enabled: !busy && !isWrong,
  });
  const resume = async () => {
    setSent(true);
    if (isWrong) {
      focusWrong();
      return;
    }
    setBusy(true);
    const resumed = await act("The run was not resumed", () => resumeWith(order));
    setBusy(false);
    if (resumed) close();
  };
  return (
    <FormDialog title={`Resume run ${String(run.id)}`} submitLabel="Resume" submit={resume} close={close}>
      <Radio.Group value={from} onChange={setFrom} label="Continue">
        {run.state !== "succeeded" && (
          <Radio
            mt={4}
            value="checkpoint"
            label="from the checkpoint"
            description="Steps that failed, paused or were stopped run again, with all steps that settled because of them. The others keep their outcome."
          />
        )}
        {chosen !== null && (
          <Radio
            mt={4}
            value="chosen"
            label={
              <>
                from <code>{chosen}</code>
              </>
            }
            description="The chosen step runs again too, with all steps after it, even if it succeeded."
          />
        )}
      </Radio.Group>
      {failed.length > 0 && (
        <Checkbox.Group mt="sm" value={skip} onChange={setSkip} label="Skip">
          {failed.slice(0, 8).map((path) => (
            <Checkbox key={path} mt={4} value={path} label={<code>{path}</code>} />
          ))}
        </Checkbox.Group>
      )}
      <ParameterFields parameters={run.parameters} given={given} change={setGiven} wrong={sent ? wrong : {}} />
      {others.length > 0 && (
        <NativeSelect
          mt="sm"
          label="Follow"
          description="Another one is refused with a list when kept steps do not fit there."
          value={release}
          onChange={(e) => setRelease(e.currentTarget.value)}
          data={[{ value: "", label: "what the run has followed" }, ...others]}
        />
      )}
      <p className="small" role="status" style={{ marginBottom: 0 }}>
        {isWrong
          ? "A parameter has a value that does not fit."
          : refused !== null
            ? refused.message
            : plan === undefined
              ? "…"
              : `${plan.redone.length === 0 ? "Nothing" : some(plan.redone)} would run again${plan.goesOn.length === 0 ? "" : `, inside ${some(plan.goesOn)}`}; ${String(plan.kept)} ${Number(plan.kept) === 1 ? "step keeps its" : "steps keep their"} outcome.`}
      </p>
    </FormDialog>
  );
}

const some = (paths: readonly string[]) =>
  paths.slice(0, 5).join(", ") + (paths.length > 5 ? ` and ${String(paths.length - 5)} more` : "");
