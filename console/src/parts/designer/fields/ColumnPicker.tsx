import { Popover } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useDesigning } from "../useDesign";
import { columnsQuery } from "../../../queries/design";

/** Chooses columns of a load step by what its source and target really have. */
export function ColumnPicker({
  step,
  chosen,
  toggle,
}: {
  step: string;
  chosen: string[];
  toggle: (column: string) => void;
}) {
  const { store, pastRun } = useDesigning();
  const [open, setOpen] = useState(false);
  const { data, error, isFetching } = useQuery({
    ...columnsQuery(store.chain, () => store.text, step, pastRun),
    enabled: open,
  });
  // The target's names first: they are what columns are called.
  const names = data
    ? [...data.target, ...data.source.filter((s) => !data.target.some((t) => t.toLowerCase() === s.toLowerCase()))]
    : [];
  const problem = error?.message ?? data?.problem;
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" width={300} trapFocus shadow="md" withinPortal>
      <Popover.Target>
        <button type="button" className="linkbutton" aria-haspopup="dialog" onClick={() => setOpen(!open)}>
          Choose columns…
        </button>
      </Popover.Target>
      <Popover.Dropdown p="xs">
        {isFetching && (
          <p className="soft small" role="status">
            Looking at source and target…
          </p>
        )}
        {problem != null && <p className="warned small">{problem}</p>}
        <div className="picklist" role="group" aria-label="Columns">
          {names.map((name) => (
            <label key={name} className="columnpick">
              <input type="checkbox" checked={chosen.includes(name)} onChange={() => toggle(name)} />{" "}
              <code>{name}</code>{" "}
              <span className="soft">
                {[data?.source.includes(name) && "source", data?.target.includes(name) && "target"]
                  .filter(Boolean)
                  .join(" and ")}
              </span>
            </label>
          ))}
        </div>
        {data && names.length === 0 && problem == null && <p className="soft small">Neither has columns yet.</p>}
      </Popover.Dropdown>
    </Popover>
  );
}
