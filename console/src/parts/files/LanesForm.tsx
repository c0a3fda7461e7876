import { Button, NumberInput } from "@mantine/core";
import { entriesOf, putEntry } from "../../core/document/entries";
import { AddName } from "../form/AddName";
import type { FormProps } from "./formProps";

/** The lanes of a file, and how many steps each takes at once. */
export function LanesForm({ text, change }: FormProps) {
  const all = entriesOf(text) ?? {};
  return (
    <div className="sheet">
      <table className="dense">
        <thead>
          <tr>
            <th>Lane</th>
            <th>Steps at once, in all runs together</th>
            <th>
              <span className="visuallyhidden">Actions</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(all).map(([lane, entry]) => (
            <tr key={lane}>
              <td>{lane}</td>
              <td>
                <NumberInput
                  size="xs"
                  w={120}
                  min={1}
                  allowDecimal={false}
                  aria-label={`Width of ${lane}`}
                  value={
                    typeof entry.width === "number" ? entry.width : String((entry.width as string | undefined) ?? "")
                  }
                  onChange={(width) => change(putEntry(text, lane, lane, { ...entry, width }))}
                />
              </td>
              <td className="num">
                <Button
                  size="compact-xs"
                  variant="subtle"
                  color="red"
                  aria-label={`Remove ${lane}`}
                  onClick={() => change(putEntry(text, lane, lane, null))}
                >
                  Remove
                </Button>
              </td>
            </tr>
          ))}
          <tr>
            <td colSpan={3}>
              <AddName
                label="Name of a new lane"
                placeholder="a new lane"
                fits={(name) => /^[A-Za-z][\w-]*$/.test(name) && !(name in all)}
                add={(name) => change(putEntry(text, null, name, { width: 1 }))}
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}
