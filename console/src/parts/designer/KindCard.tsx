import { ActionIcon, Popover } from "@mantine/core";
import { IconStar, IconStarFilled } from "@tabler/icons-react";
import { useEffect, useRef, useState, type ReactElement } from "react";
import { examples } from "../../core/help/examples";
import { KindTile } from "../kinds/KindIcon";

/** How long the pointer rests before a card opens, and how long it may be away before it shuts, in milliseconds. */
const delay = { open: 350, shut: 120 };

/** A card beside a kind: what it does, an example, and whether it is a favourite. */
export function KindCard({
  kind,
  title = kind,
  about,
  favourite,
  children,
}: {
  kind: string;
  title?: string;
  about: string;
  favourite: { is: boolean; toggle: () => void } | null;
  /** What the card stands beside. */
  children: ReactElement;
}) {
  const [open, setOpen] = useState(false);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(timer.current), []);
  const soon = (next: boolean) => {
    clearTimeout(timer.current);
    timer.current = setTimeout(() => setOpen(next), next ? delay.open : delay.shut);
  };
  const now = (next: boolean) => {
    clearTimeout(timer.current);
    setOpen(next);
  };
  const example = examples().get(kind);
  return (
    <Popover opened={open} position="right-start" width={360} shadow="md" withinPortal offset={4} withRoles={false}>
      <Popover.Target>
        <span
          className="kindhost"
          onMouseEnter={() => soon(true)}
          onMouseLeave={() => soon(false)}
          onFocus={(e) => e.target.matches(":focus-visible") && now(true)}
          onBlur={() => now(false)}
          onMouseDown={() => now(false)}
          onKeyDown={(e) => {
            if (e.key === "Escape") now(false);
            else if (e.key === "f" && !e.ctrlKey && !e.metaKey && favourite) favourite.toggle();
          }}
        >
          {children}
        </span>
      </Popover.Target>
      <Popover.Dropdown
        className="kindcard"
        role="dialog"
        aria-label={`About ${title}`}
        onMouseEnter={() => soon(true)}
        onMouseLeave={() => soon(false)}
      >
        <div className="kindcardhead">
          <KindTile kind={kind} size={17} />
          <b>{title}</b>
          {favourite && (
            <ActionIcon
              variant="subtle"
              color="gray"
              size={26}
              tabIndex={-1}
              aria-label={favourite.is ? `${kind} is no favourite any more` : `${kind} is a favourite`}
              aria-pressed={favourite.is}
              title="Favourites come first when a step is added (f)"
              onClick={favourite.toggle}
            >
              {favourite.is ? <IconStarFilled size={15} /> : <IconStar size={15} />}
            </ActionIcon>
          )}
        </div>
        <p>{about}</p>
        {example !== undefined && <pre>{example}</pre>}
        <p className="soft small">
          {favourite
            ? "Enter or a click adds it behind the chosen step. Drag it to a place, onto a step or a link."
            : "Enter or a click adds it below the chain."}
        </p>
      </Popover.Dropdown>
    </Popover>
  );
}
