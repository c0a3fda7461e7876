import { Button, CopyButton, Modal } from "@mantine/core";
import "./access.css";

/** Something that is told once, to be copied now. */
export function ShownOnce({
  title,
  text,
  close,
  children,
}: {
  title: string;
  text: string;
  close: () => void;
  children: React.ReactNode;
}) {
  return (
    <Modal opened onClose={close} title={title} size="lg" closeOnClickOutside={false}>
      {children}
      <p className="shownonce sheet">{text}</p>
      <div className="rowactions">
        <CopyButton value={text}>
          {({ copied, copy }) => (
            <Button variant="default" onClick={copy}>
              {copied ? "Copied" : "Copy"}
            </Button>
          )}
        </CopyButton>
        <Button onClick={close}>Done</Button>
      </div>
    </Modal>
  );
}
