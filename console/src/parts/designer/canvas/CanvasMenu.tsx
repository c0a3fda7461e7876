import { Menu } from "@mantine/core";
import { useEffect, useRef } from "react";

/** One thing that can be done with what is chosen. */
export interface MenuEntry {
  label: string;
  keys?: string;
  run: () => void;
  danger?: boolean;
}

/** What can be done with what is chosen, at the point where the pointer was pressed. */
export function CanvasMenu({
  at,
  entries,
  close,
}: {
  at: { x: number; y: number };
  entries: readonly MenuEntry[];
  close: () => void;
}) {
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), []);
  return (
    <Menu opened onClose={close} position="bottom-start" withinPortal shadow="md" returnFocus={false}>
      <Menu.Target>
        <span style={{ position: "fixed", left: at.x, top: at.y, width: 1, height: 1 }} />
      </Menu.Target>
      <Menu.Dropdown aria-label="What can be done">
        {entries.map((entry, i) => (
          <Menu.Item
            key={entry.label}
            ref={i === 0 ? first : undefined}
            color={entry.danger === true ? "red" : undefined}
            rightSection={entry.keys === undefined ? undefined : <kbd>{entry.keys}</kbd>}
            onClick={entry.run}
          >
            {entry.label}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
