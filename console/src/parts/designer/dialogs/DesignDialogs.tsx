import { Modal } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import type { DesignState } from "../../../core/designer/DesignStore";
import { connect } from "../../../core/designer/operations";
import { AddDialog, FieldDialog, FindDialog, GateDialog } from "./choosers";
import { ReleaseDialog } from "./ReleaseDialog";
import { RenameDialog } from "./RenameDialog";
import { chainQuery } from "../../../queries/chains";
import { ErrorBox } from "../../page/ErrorBox";
import { StartDialog } from "../../run/StartDialog";
import { useDesigning } from "../useDesign";

/** The dialog of the designer that is open, and what it is about. */
export type Dialog =
  | { name: "add"; after: string | null; scope: string }
  | { name: "gate"; from: string }
  | { name: "find" }
  | { name: "field" }
  | { name: "release" }
  | { name: "run" }
  | { name: "rename"; what: string; scope: string; of: string; to?: string };

/** The one that is open. */
export function DesignDialogs({
  dialog,
  state,
  add,
  handle,
  show,
  close,
}: {
  dialog: Dialog | null;
  state: DesignState;
  add: (kind: string, after: string | null, scope: string) => void;
  handle: (occasion: string) => void;
  show: (address: string) => void;
  close: () => void;
}) {
  const { store, kinds } = useDesigning();
  const { design } = state;
  return (
    <>
      {dialog?.name === "add" && (
        <AddDialog
          kinds={kinds.steps}
          after={dialog.after}
          add={(kind) => add(kind, dialog.after, dialog.scope)}
          handle={handle}
          close={close}
        />
      )}
      {dialog?.name === "gate" && (
        <GateDialog
          design={design}
          from={dialog.from}
          draw={(to) => store.apply(connect(store.state.design, dialog.from, to))}
          close={close}
        />
      )}
      {dialog?.name === "find" && <FindDialog design={design} go={show} close={close} />}
      {dialog?.name === "field" && <FieldDialog close={close} />}
      {dialog?.name === "rename" && (
        <RenameDialog what={dialog.what} scope={dialog.scope} name={dialog.of} to={dialog.to} close={close} />
      )}
      {dialog?.name === "run" && <RunDialog chain={store.chain} close={close} />}
      {dialog?.name === "release" && (
        <ReleaseDialog
          state={state}
          close={close}
          done={() =>
            notifications.show({ title: "Released", message: `New runs of ${store.chain} follow it from now on.` })
          }
        />
      )}
    </>
  );
}

/** Asks for the parameters of the latest release and starts it. */
function RunDialog({ chain, close }: { chain: string; close: () => void }) {
  const { data, error } = useQuery(chainQuery(chain));
  if (data) return <StartDialog chain={data} close={close} />;
  if (!error) return null;
  return (
    <Modal opened onClose={close} title={`Run ${chain}`}>
      <ErrorBox error={error} />
    </Modal>
  );
}
