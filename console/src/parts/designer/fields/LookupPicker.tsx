import { Popover, SegmentedControl, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { above, having, lookFrom, placesOf } from "../../../core/designer/lookups";
import { at, plain, type Path } from "../../../core/document/tree";
import { lookupQuery } from "../../../queries/design";
import { useDesigning } from "../useDesign";

interface Props {
  /** The setting: the connection and the action beside it say where to look. */
  path: Path;
  what: "table" | "path";
  /** The field's label. */
  label: string;
  text: string;
  write: (text: string) => void;
}

/** Looks up what a setting can name, where it really is: tables of a connection, files and folders. */
export function LookupPicker(props: Props) {
  const [open, setOpen] = useState(false);
  const { store, context } = useDesigning();
  const beside = (name: string) => {
    const value = plain(at(store.state.design.file.root, [...props.path.slice(0, -1), name]));
    return typeof value === "string" ? value : undefined;
  };
  const connection = context.connections.find((c) => c.name === beside("connection")) ?? null;
  const close = () => setOpen(false);
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={340} trapFocus shadow="md" withinPortal>
      <Popover.Target>
        <button
          type="button"
          className="linkbutton"
          aria-label={`Look up ${props.label}`}
          aria-haspopup="dialog"
          onClick={() => setOpen(!open)}
        >
          Look…
        </button>
      </Popover.Target>
      <Popover.Dropdown p="xs">
        {open &&
          (props.what === "path" ? (
            <Paths {...props} close={close} connection={connection} action={beside("action")} />
          ) : connection === null ? (
            <p className="soft small">Choose a connection first: then its tables are listed here.</p>
          ) : (
            <Tables {...props} close={close} connection={connection.name} />
          ))}
      </Popover.Dropdown>
    </Popover>
  );
}

function Tables({ connection, write, close }: Props & { connection: string; close: () => void }) {
  const { store } = useDesigning();
  const [search, setSearch] = useState("");
  const { data, error, isFetching } = useQuery(lookupQuery(store.chain, "table", connection, null));
  const shown = having(data?.items ?? [], search);
  const take = (text: string) => {
    write(text);
    close();
  };
  return (
    <>
      <TextInput
        size="xs"
        data-autofocus
        aria-label="Search tables"
        placeholder={`Tables of ${connection}`}
        value={search}
        onChange={(e) => setSearch(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && shown[0]) take(shown[0].text);
        }}
      />
      <Found
        items={shown}
        take={take}
        busy={isFetching}
        problem={error?.message ?? data?.problem}
        hasMore={data?.hasMore}
        none="It has no tables yet."
      />
    </>
  );
}

function Paths({
  path,
  text,
  write,
  close,
  connection,
  action,
}: Props & { connection: { name: string; type: string } | null; action: string | undefined; close: () => void }) {
  const { store } = useDesigning();
  const places = placesOf(String(path.at(-1)), connection, action);
  const [place, setPlace] = useState(places[0]?.label ?? "");
  const [begin, setBegin] = useState(lookFrom(text));
  const where = places.find((p) => p.label === place)?.connection ?? null;
  const { data, error, isFetching } = useQuery(lookupQuery(store.chain, "path", where, begin));
  const take = (found: string) => {
    if (found.endsWith("/")) setBegin(found);
    else {
      write(found);
      close();
    }
  };
  return (
    <>
      {places.length > 1 && (
        <SegmentedControl
          size="xs"
          fullWidth
          mb={6}
          value={place}
          onChange={(next) => {
            setPlace(next);
            setBegin("");
          }}
          data={places.map((p) => p.label)}
        />
      )}
      <TextInput
        size="xs"
        data-autofocus
        aria-label="Path"
        placeholder={places.length === 1 ? `${place}: a path` : "a path"}
        value={begin}
        onChange={(e) => setBegin(e.currentTarget.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && data?.items[0]) take(data.items[0].text);
        }}
      />
      <div className="lookhead">
        <button type="button" className="linkbutton" disabled={begin === ""} onClick={() => setBegin(above(begin))}>
          ↑ up
        </button>
        <button
          type="button"
          className="linkbutton"
          disabled={!begin.endsWith("/")}
          onClick={() => {
            write(begin);
            close();
          }}
        >
          use this folder
        </button>
      </div>
      <Found
        items={data?.items ?? []}
        cut={begin.slice(0, begin.lastIndexOf("/") + 1)}
        take={take}
        busy={isFetching}
        problem={error?.message ?? data?.problem}
        hasMore={data?.hasMore}
        none="Nothing begins so."
      />
    </>
  );
}

function Found({
  items,
  cut = "",
  take,
  busy,
  problem,
  hasMore,
  none,
}: {
  items: readonly { text: string; what: string }[];
  /** What all begin with, and what is not said again. */
  cut?: string;
  take: (text: string) => void;
  busy: boolean;
  problem: string | null | undefined;
  hasMore: boolean | undefined;
  none: string;
}) {
  return (
    <>
      {problem != null && <p className="warned small">{problem}</p>}
      <div className="picklist" role="group" aria-label="What is there">
        {items.map(({ text, what }) => (
          <button key={text} type="button" onClick={() => take(text)}>
            <code>{text.slice(cut.length)}</code> <span className="soft">{what}</span>
          </button>
        ))}
      </div>
      {busy && items.length === 0 && (
        <p className="soft small" role="status">
          Looking…
        </p>
      )}
      {!busy && problem == null && items.length === 0 && <p className="soft small">{none}</p>}
      {hasMore === true && <p className="soft small">There are more: type to narrow them down.</p>}
    </>
  );
}
