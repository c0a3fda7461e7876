import { Modal, TextInput } from "@mantine/core";
import { useState } from "react";

/** A line to choose from. */
export interface Item {
  key: string;
  name: string;
  about: string;
  /** Beside its name: why it stands there. */
  mark?: string;
  /** More that is searched; the line that has what is searched for is shown. */
  text?: string;
}

/**
 * How many lines are shown at once: nobody reads on, and more would keep the dialog from being there for the next key.
 */
const SHOWN = 60;

/** A list that narrows while one types; Enter takes the marked line. */
export function Chooser({
  title,
  label,
  items,
  more,
  typed,
  choose,
  close,
}: {
  title: string;
  label: string;
  items: Item[];
  /** Lines that come of what was typed; they stand first. */
  more?: (search: string) => Item[];
  /** What was typed already, before the list was there. */
  typed?: () => string;
  choose: (key: string) => void;
  close: () => void;
}) {
  const [search, setSearch] = useState("");
  const [at, setAt] = useState(0);
  const wanted = search.toLowerCase();
  // What is called just so comes first, then what begins so.
  const rank = (i: Item) =>
    [i.key, i.name].reduce(
      (best, text) => Math.min(best, text.toLowerCase() === wanted ? 0 : text.toLowerCase().startsWith(wanted) ? 1 : 2),
      2,
    );
  const found = items
    .filter((i) => `${i.name} ${i.about}\n${i.text ?? ""}`.toLowerCase().includes(wanted))
    .sort((a, b) => (wanted === "" ? 0 : rank(a) - rank(b)));
  const shown = [...(more?.(search.trim()) ?? []), ...found].slice(0, SHOWN);
  const marked = Math.min(at, Math.max(0, shown.length - 1));
  const take = (item: Item | undefined) => {
    if (!item) return;
    close();
    choose(item.key);
  };
  return (
    <Modal opened onClose={close} title={title} size="md" returnFocus={false}>
      <TextInput
        autoFocus
        data-autofocus
        onFocus={() => {
          if (search === "") setSearch(typed?.() ?? "");
        }}
        aria-label={label}
        placeholder={label}
        value={search}
        role="combobox"
        aria-expanded
        aria-controls="chooser"
        aria-activedescendant={shown[marked] ? `chooser-${shown[marked].key}` : undefined}
        onChange={(e) => {
          setSearch(e.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") {
            e.preventDefault();
            setAt(Math.min(shown.length - 1, marked + 1));
          } else if (e.key === "ArrowUp") {
            e.preventDefault();
            setAt(Math.max(0, marked - 1));
          } else if (e.key === "Enter") {
            e.preventDefault();
            take(shown[marked]);
          }
        }}
      />
      <ul id="chooser" className="chooser" role="listbox" aria-label={title}>
        {shown.map((item, i) => (
          <li
            key={item.key}
            id={`chooser-${item.key}`}
            role="option"
            aria-selected={i === marked}
            onClick={() => take(item)}
          >
            <b>{item.name}</b> {item.mark !== undefined && <span className="soft">{item.mark} </span>}
            <span className="soft">{item.about}</span>
            {lineWith(item, wanted)}
          </li>
        ))}
      </ul>
      {found.length > SHOWN && (
        <p className="soft small">{String(found.length - SHOWN)} more: type to narrow them down.</p>
      )}
      {shown.length === 0 && <p className="soft small">Nothing fits.</p>}
    </Modal>
  );
}

/** The line of an item's text that has what is searched for, where its name and what stands beside it have not. */
function lineWith({ name, about, text = "" }: Item, wanted: string) {
  if (wanted === "" || `${name} ${about}`.toLowerCase().includes(wanted)) return null;
  const line = text.split("\n").find((l) => l.toLowerCase().includes(wanted));
  return line === undefined ? null : <code className="foundline">{line.trim()}</code>;
}
