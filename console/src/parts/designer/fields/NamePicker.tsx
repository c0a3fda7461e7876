import { Popover, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Spot } from "../../../core/api/client";
import { useDesigning } from "../useDesign";
import { idOf } from "../../../core/stepPath";
import { namesQuery } from "../../../queries/design";

/** Chooses a value that is in scope at a place: parameters, variables, outputs of steps. */
export function NamePicker({
  spot,
  pick,
  what,
}: {
  spot: Spot;
  pick: (name: string, type: string) => void;
  what: string;
}) {
  const { store } = useDesigning();
  const [open, setOpen] = useState(false);
  const [search, setSearch] = useState("");
  const { data } = useQuery({
    ...namesQuery(store.chain, () => store.text, spot, open ? store.text : ""),
    enabled: open,
  });
  const shown = (data ?? []).filter((n) => n.name.toLowerCase().includes(search.toLowerCase())).slice(0, 60);
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={320} trapFocus shadow="md" withinPortal>
      <Popover.Target>
        <button
          type="button"
          className="linkbutton"
          aria-label={`Insert a value into ${what}`}
          title="Insert a value"
          aria-haspopup="dialog"
          onClick={() => setOpen(!open)}
        >
          + value
        </button>
      </Popover.Target>
      <Popover.Dropdown p="xs">
        <TextInput
          size="xs"
          aria-label="Search values"
          placeholder="Search values"
          value={search}
          onChange={(e) => setSearch(e.currentTarget.value)}
          data-autofocus
          onKeyDown={(e) => {
            if (e.key === "Enter" && shown[0]) {
              e.preventDefault();
              pick(shown[0].name, shown[0].type);
              setOpen(false);
            }
          }}
        />
        {spot.step !== null || spot.scope !== null ? (
          <button
            type="button"
            className="linkbutton more"
            onClick={() => {
              setOpen(false);
              store.pickStep((address) => {
                setSearch(`steps.${idOf(address)}.`);
                setOpen(true);
              });
            }}
          >
            Show me: click a step on the canvas
          </button>
        ) : null}
        <div className="picklist" role="list" aria-label="Values in scope">
          {shown.map((n) => (
            <div role="listitem" key={n.name}>
              <button
                type="button"
                onClick={() => {
                  pick(n.name, n.type);
                  setOpen(false);
                }}
              >
                <code>{n.name}</code> <span className="soft">{n.type}</span>
              </button>
            </div>
          ))}
          {data && shown.length === 0 && <p className="soft small">Nothing of that name is in scope here.</p>}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}
