import { ActionIcon } from "@mantine/core";
import { IconX } from "@tabler/icons-react";

/** Shuts the panel that it stands in, at its upper corner. */
export const CloseButton = ({ label, close }: { label: string; close: () => void }) => (
  <ActionIcon className="closebutton" variant="subtle" size="sm" aria-label={label} title={label} onClick={close}>
    <IconX size={16} stroke={1.6} aria-hidden />
  </ActionIcon>
);
