import { Button, Checkbox, Popover } from "@mantine/core";
import { IconColumns3 } from "@tabler/icons-react";

/** Chooses which columns a table has. */
export function ColumnChoice({
  groups,
  chosen,
  choose,
  usual,
}: {
  groups: readonly { label: string; columns: readonly { name: string; title: string }[] }[];
  chosen: readonly string[];
  choose: (columns: string[]) => void;
  /** Those that stand there until somebody chooses. */
  usual: readonly string[];
}) {
  return (
    <Popover position="bottom-end" width={260} trapFocus shadow="md" withinPortal>
      <Popover.Target>
        <Button size="xs" flex="none" variant="default" leftSection={<IconColumns3 size={15} />}>
          Columns
        </Button>
      </Popover.Target>
      <Popover.Dropdown className="columnchoice">
        {groups
          .filter((g) => g.columns.length > 0)
          .map((group) => (
            <fieldset key={group.label}>
              <legend>{group.label}</legend>
              {group.columns.map(({ name, title }) => (
                <Checkbox
                  key={name}
                  size="xs"
                  label={title}
                  checked={chosen.includes(name)}
                  onChange={() => choose(chosen.includes(name) ? chosen.filter((c) => c !== name) : [...chosen, name])}
                />
              ))}
            </fieldset>
          ))}
        <button type="button" className="linkbutton" onClick={() => choose([...usual])}>
          As it was at first
        </button>
      </Popover.Dropdown>
    </Popover>
  );
}
