import { useEffect, useRef, type KeyboardEvent } from "react";

/** One thing that can be done with what is chosen. */
export interface MenuEntry {
  label: string;
  keys?: string;
  run: () => void;
  danger?: boolean;
}

/** How tall an entry is, about, in pixels: the menu stays within the page. */
const ENTRY = 32;

/** What can be done with what is chosen, at the point where the pointer was pressed. Arrow keys walk, Escape leaves. */
export function CanvasMenu({
  at,
  entries,
  close,
}: {
  at: { x: number; y: number };
  entries: readonly MenuEntry[];
  close: () => void;
}) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    host.current?.querySelector<HTMLElement>("[role=menuitem]")?.focus();
    const away = (event: PointerEvent) => {
      if (!host.current?.contains(event.target as Node)) close();
    };
    window.addEventListener("pointerdown", away, true);
    return () => window.removeEventListener("pointerdown", away, true);
    // Only while it is there.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const onKeyDown = (event: KeyboardEvent) => {
    const items = [...(host.current?.querySelectorAll<HTMLElement>("[role=menuitem]") ?? [])];
    const index = items.indexOf(document.activeElement as HTMLElement);
    const to: Record<string, number> = {
      ArrowDown: (index + 1) % items.length,
      ArrowUp: (index + items.length - 1) % items.length,
      Home: 0,
      End: items.length - 1,
    };
    const next = to[event.key];
    if (next !== undefined) items[next]?.focus();
    else if (event.key === "Escape" || event.key === "Tab") close();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={host}
      role="menu"
      aria-label="What can be done"
      className="canvasmenu"
      style={{
        left: Math.min(at.x, window.innerWidth - 250),
        top: Math.max(8, Math.min(at.y, window.innerHeight - entries.length * ENTRY - 16)),
      }}
      onKeyDown={onKeyDown}
    >
      {entries.map((entry) => (
        <button
          key={entry.label}
          type="button"
          role="menuitem"
          data-danger={entry.danger}
          onClick={() => {
            close();
            entry.run();
          }}
        >
          <span>{entry.label}</span>
          {entry.keys !== undefined && <kbd>{entry.keys}</kbd>}
        </button>
      ))}
    </div>
  );
}
