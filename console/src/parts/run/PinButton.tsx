import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { notifications } from "@mantine/notifications";
import { useKeepingCommands } from "../../queries/keeping";
import { FormDialog } from "../page/FormDialog";

/** Keeps a run whatever is said about how long runs are kept; asks why. */
export function PinButton({ run }: { run: number }) {
  const [asking, setAsking] = useState(false);
  const [why, setWhy] = useState("");
  const { pin } = useKeepingCommands();
  return (
    <>
      <Button
        size="xs"
        variant="default"
        title="It stays whatever is said about how long runs are kept"
        onClick={() => setAsking(true)}
      >
        Pin…
      </Button>
      {asking && (
        <FormDialog
          title={`Keep run ${String(run)} in any case?`}
          submitLabel="Pin"
          close={() => setAsking(false)}
          submit={async () => {
            await pin(run, why);
            setAsking(false);
            notifications.show({
              message: `Run ${String(run)} is pinned, with those that it has called`,
              autoClose: 6000,
            });
          }}
        >
          <TextInput label="Why" value={why} onChange={(e) => setWhy(e.currentTarget.value)} data-autofocus />
        </FormDialog>
      )}
    </>
  );
}
