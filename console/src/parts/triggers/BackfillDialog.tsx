import { Checkbox, Group, NativeSelect, NumberInput, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import type { BackfillOrder } from "../../core/api/client";
import type { TriggerInfo } from "../../core/api/types";
import { dayBegins, inZone, placeOf } from "../../core/triggers/words";
import { backfillPreviewQuery, useTriggerCommands } from "../../queries/triggers";
import { ErrorBox } from "../page/ErrorBox";
import { FormDialog } from "../page/FormDialog";

const day = 86_400_000;
const dateOf = (at: number) => new Date(at).toISOString().slice(0, 10);

/** Asks for a span, shows which due times would be made up for, and begins. */
export function BackfillDialog({ trigger, close }: { trigger: TriggerInfo; close: () => void }) {
  const commands = useTriggerCommands();
  const [from, setFrom] = useState(() => dateOf(Date.now() - 7 * day));
  const [to, setTo] = useState(() => dateOf(Date.now()));
  const [parallel, setParallel] = useState(1);
  const [newestFirst, setNewestFirst] = useState(false);
  const [again, setAgain] = useState<BackfillOrder["again"]>("none");
  const [keep, setKeep] = useState(false);
  const order: BackfillOrder = {
    from: dayBegins(from, trigger.zone),
    to: dayBegins(to, trigger.zone, 1),
    parallel,
    newestFirst,
    again,
    keep,
  };
  const preview = useQuery(backfillPreviewQuery(trigger.name, order));
  const begin = async () => {
    if (await act("The backfill was not started", () => commands.backfill(trigger.name, order))) close();
  };
  const times = preview.data?.times ?? 0;
  return (
    <FormDialog
      title={`Backfill ${trigger.name}`}
      submitLabel="Start"
      submit={begin}
      close={close}
      disabled={times === 0 || preview.error !== null}
      size="lg"
    >
      <p className="small soft">
        Starts {trigger.chain} for every due time of the span that has no run yet, with the release of this moment.
      </p>
      <Group grow>
        <TextInput
          type="date"
          label="From"
          value={from}
          onChange={(e) => e.currentTarget.value && setFrom(e.currentTarget.value)}
        />
        <TextInput
          type="date"
          label="To, this day too"
          value={to}
          onChange={(e) => e.currentTarget.value && setTo(e.currentTarget.value)}
        />
        <NumberInput
          label="Runs at once"
          min={1}
          max={100}
          value={parallel}
          onChange={(value) => setParallel(Number(value) || 1)}
        />
      </Group>
      <NativeSelect
        mt="sm"
        label="Due times that have a run"
        value={again}
        onChange={(e) => setAgain(e.currentTarget.value as BackfillOrder["again"])}
        data={[
          { value: "none", label: "are left out" },
          { value: "failed", label: "run again when that run did not succeed" },
          { value: "all", label: "all run again" },
        ]}
      />
      <Group mt="sm">
        <Checkbox
          label="Newest first"
          checked={newestFirst}
          onChange={(e) => setNewestFirst(e.currentTarget.checked)}
        />
        <Checkbox
          label="Its runs write what the chain keeps"
          checked={keep}
          onChange={(e) => setKeep(e.currentTarget.checked)}
        />
      </Group>
      <div className="preview" aria-live="polite">
        {preview.error ? (
          <ErrorBox error={preview.error} />
        ) : (
          <>
            <b>
              {times === 0 ? "Every due time of the span has a run." : `${String(times)} runs would be started`}
              {times > 0 && `, for ${placeOf(trigger.zone)} times:`}
            </b>
            <ol className="times">
              {preview.data?.due?.slice(0, 8).map((due) => (
                <li key={due} className="mono">
                  {inZone(due, trigger.zone)}
                </li>
              ))}
            </ol>
            {times > 8 && <span className="soft small">and {times - 8} more</span>}
          </>
        )}
      </div>
    </FormDialog>
  );
}
