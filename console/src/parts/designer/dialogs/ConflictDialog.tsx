import { Button, Group, Modal } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { act } from "../../../app/act";
import { getDraft } from "../../../core/api/client";
import type { DesignState } from "../../../core/designer/DesignStore";
import { clock } from "../../../core/format";
import { comparisonQuery } from "../../../queries/design";
import { Changes } from "../panels/Changes";
import { useDesigning } from "../useDesign";

/** Somebody else has saved the draft meanwhile: both versions are there, and a person decides. */
export function ConflictDialog({ state }: { state: DesignState }) {
  const { store } = useDesigning();
  const { theirs } = state;
  const { data: changes } = useQuery(comparisonQuery(theirs && { text: theirs.source }, { text: store.text }));
  if (!theirs) return null;
  return (
    <Modal
      opened
      onClose={() => undefined}
      withCloseButton={false}
      closeOnEscape={false}
      closeOnClickOutside={false}
      title="Somebody else has changed this draft"
      size="lg"
    >
      <p>
        {theirs.author} saved version {theirs.version} at {clock(theirs.saved)}, while you had changes of your own.
        Nothing is lost: both versions are kept, whichever you choose.
      </p>
      <h3>From theirs to yours</h3>
      {changes && <Changes changes={changes} />}
      <Group mt="md" justify="flex-end">
        <Button
          variant="default"
          onClick={() => void act("Theirs could not be read", async () => store.take(await getDraft(store.chain)))}
        >
          Continue with theirs
        </Button>
        <Button onClick={() => void store.keepMine()}>Continue with mine</Button>
      </Group>
      <p className="soft small">With theirs, undo brings yours back. With yours, theirs stays under Versions.</p>
    </Modal>
  );
}
