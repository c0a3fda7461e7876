import { Button, type ButtonProps } from "@mantine/core";
import { useState, type ReactNode } from "react";
import { FormDialog } from "./FormDialog";

/** A button for what can't be taken back: it says what would happen, and does it when that is confirmed. */
export function ConfirmButton({
  label,
  question,
  confirmLabel,
  confirm,
  children,
  ...button
}: ButtonProps & {
  label: string;
  /** Names the thing, so that a press in the wrong row is noticed. */
  question: string;
  confirmLabel: string;
  confirm: () => Promise<unknown>;
  /** What happens then, in a sentence or two. */
  children: ReactNode;
  "aria-label"?: string;
  title?: string;
}) {
  const [asking, setAsking] = useState(false);
  const close = () => setAsking(false);
  return (
    <>
      <Button {...button} onClick={() => setAsking(true)}>
        {label}
      </Button>
      {asking && (
        <FormDialog
          title={question}
          submitLabel={confirmLabel}
          close={close}
          submit={async () => {
            await confirm();
            close();
          }}
        >
          {children}
        </FormDialog>
      )}
    </>
  );
}
