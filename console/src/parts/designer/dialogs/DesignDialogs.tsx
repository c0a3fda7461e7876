import { notifications } from "@mantine/notifications";
import type { DesignState } from "../../../core/designer/DesignStore";
import { connect } from "../../../core/designer/operations";
import { AddDialog, FindDialog, GateDialog } from "./choosers";
import { ReleaseDialog } from "./ReleaseDialog";
import { RenameDialog } from "./RenameDialog";
import { useDesigning } from "../useDesign";

/** The dialog of the designer that is open, and what it is about. */
export type Dialog =
  | { name: "add"; after: string | null; scope: string }
  | { name: "gate"; from: string }
  | { name: "find" }
  | { name: "release" }
  | { name: "rename"; what: string; scope: string; of: string };

/** The one that is open. */
export function DesignDialogs({
  dialog,
  state,
  add,
  show,
  close,
}: {
  dialog: Dialog | null;
  state: DesignState;
  add: (kind: string, after: string | null, scope: string) => void;
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
      {dialog?.name === "rename" && (
        <RenameDialog what={dialog.what} scope={dialog.scope} name={dialog.of} close={close} />
      )}
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
