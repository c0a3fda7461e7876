import { NumberInput, Radio, Stack, TextInput } from "@mantine/core";
import { useState } from "react";
import type { KeepRuleInfo } from "../../core/api/types";
import { FormDialog } from "../page/FormDialog";

/** Asks how long runs are kept: of a chain, or of a folder and below, which may be named here. */
export function RuleDialog({
  about,
  rule,
  save,
  close,
}: {
  /** The chain; null for a folder. */
  about: string | null;
  rule: KeepRuleInfo | null;
  save: (rule: KeepRuleInfo) => Promise<unknown>;
  close: () => void;
}) {
  const [folder, setFolder] = useState(rule?.folder ?? "");
  const [all, setAll] = useState(rule !== null && rule.days == null && rule.atMost == null);
  const [days, setDays] = useState<number | string>(rule?.days ?? "");
  const [atLeast, setAtLeast] = useState<number | string>(rule?.atLeast ?? 10);
  const [atMost, setAtMost] = useState<number | string>(rule?.atMost ?? "");
  const number = (value: number | string) => (typeof value === "number" ? value : null);
  const says = all || days !== "" || atMost !== "";
  return (
    <FormDialog
      title={about === null ? "How long runs of a folder are kept" : `How long runs of ${about} are kept`}
      submitLabel="Keep so"
      close={close}
      disabled={!says}
      submit={async () => {
        await save({
          chain: about,
          folder: about === null ? folder.trim() : null,
          days: all ? null : number(days),
          atLeast: all ? 0 : (number(atLeast) ?? 0),
          atMost: all ? null : number(atMost),
        });
        close();
      }}
    >
      <Stack gap="sm">
        {about === null && (
          <TextInput
            label="Folder of the workspace"
            description="It holds there and below; nothing stands for the whole workspace"
            value={folder}
            onChange={(e) => setFolder(e.currentTarget.value)}
            data-autofocus
          />
        )}
        <Radio.Group value={all ? "all" : "some"} onChange={(v) => setAll(v === "all")} label="What stays">
          <Stack gap={6} mt={6}>
            <Radio value="all" label="Everything" />
            <Radio value="some" label="What is young, or among the newest" />
          </Stack>
        </Radio.Group>
        {!all && (
          <>
            <NumberInput
              label="Days"
              description="Runs that ended longer ago go"
              min={1}
              max={36_500}
              allowDecimal={false}
              value={days}
              onChange={setDays}
            />
            <NumberInput
              label="The newest of each chain in any case"
              min={0}
              max={1_000_000}
              allowDecimal={false}
              value={atLeast}
              onChange={setAtLeast}
            />
            <NumberInput
              label="Never more of each chain than"
              min={1}
              allowDecimal={false}
              value={atMost}
              onChange={setAtMost}
            />
          </>
        )}
        <p className="soft small">
          These stay whatever is said here: runs that have not ended, the last one of each chain that succeeded, pinned
          ones, and what they have called.
        </p>
      </Stack>
    </FormDialog>
  );
}
