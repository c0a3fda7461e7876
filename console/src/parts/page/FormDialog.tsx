import { Button, Group, Modal } from "@mantine/core";
import { useState, type ReactNode } from "react";
import { ErrorBox } from "./ErrorBox";

/**
 * A dialog with a form: Enter and the button at the right submit it, Escape and Cancel close it. While it is being
 * submitted it can't be submitted again; what is refused then is told in it.
 */
export function FormDialog({
  title,
  submitLabel,
  submit,
  close,
  disabled = false,
  error,
  size,
  returnFocus,
  extra,
  className,
  children,
}: {
  title: string;
  submitLabel: string;
  /** Does what the form asks for; whether the dialog closes then is for the caller to say, by `close`. */
  submit: () => Promise<unknown>;
  close: () => void;
  disabled?: boolean;
  error?: Error | string | null;
  size?: "md" | "lg" | "xl";
  returnFocus?: boolean;
  /** A button at the left, apart from the others. */
  extra?: ReactNode;
  className?: string;
  children: ReactNode;
}) {
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);
  const go = async () => {
    if (busy || disabled) return;
    setBusy(true);
    setRefusal(null);
    try {
      await submit();
    } catch (e) {
      setRefusal(e instanceof Error ? e.message : String(e));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={close} title={title} size={size} returnFocus={returnFocus}>
      <form
        className={className}
        onSubmit={(e) => {
          e.preventDefault();
          // A dialog may stand in another one: its form is not that of the outer.
          e.stopPropagation();
          void go();
        }}
      >
        {children}
        <ErrorBox error={error ?? refusal} />
        <Group mt="lg" justify={extra ? "space-between" : "flex-end"}>
          {extra}
          <Group>
            <Button variant="default" onClick={close}>
              Cancel
            </Button>
            <Button type="submit" loading={busy} disabled={disabled}>
              {submitLabel}
            </Button>
          </Group>
        </Group>
      </form>
    </Modal>
  );
}
