import { Group, TextInput } from "@mantine/core";
import { useState } from "react";
import {
  addProfile,
  readProfiles,
  readTyped,
  removeProfile,
  setNote,
  setValue,
  typed,
  type ProfileRow,
} from "../../core/files/profiles";
import { AddName } from "../form/AddName";
import { ErrorBox } from "../page/ErrorBox";
import type { FormProps } from "./formProps";

/** The profiles of a file side by side: a row for each value, with a note. */
export function ProfilesForm({ text, change }: FormProps) {
  const read = readProfiles(text);
  if (read === null) return <ErrorBox>This can’t be shown side by side: look at its text.</ErrorBox>;
  const { profiles, rows } = read;
  return (
    <>
      <div className="sheet scrolled" tabIndex={0} role="region" aria-label="Profiles side by side">
        <table className="dense profiles">
          <thead>
            <tr>
              <th>Value</th>
              {profiles.map((p) => (
                <th key={p}>
                  {p}{" "}
                  <button
                    type="button"
                    className="linkbutton"
                    aria-label={`Remove the profile ${p}`}
                    onClick={() => change(removeProfile(text, p))}
                  >
                    ×
                  </button>
                </th>
              ))}
              <th>Note</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.name} data-value={row.name}>
                <td className="mono">profile.{row.name}</td>
                {profiles.map((p) => (
                  <td key={p}>
                    <Cell
                      label={`${row.name} in ${p}`}
                      text={typed(row.values[p])}
                      missing={!(p in row.values)}
                      commit={(said) => change(setValue(text, p, row.name, readTyped(said, others(row, p))))}
                    />
                  </td>
                ))}
                <td>
                  <Cell
                    label={`Note on ${row.name}`}
                    text={row.note}
                    missing={false}
                    commit={(said) => change(setNote(text, row.name, said))}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Group mt="sm" gap="lg">
        <AddName
          label="Name of a new value"
          placeholder="a new value"
          button="Add value"
          fits={(name) => /^[A-Za-z_]\w*$/.test(name) && !rows.some((r) => r.name === name) && profiles.length > 0}
          add={(name) => change(setValue(text, profiles[0] ?? "", name, ""))}
        />
        <AddName
          label="Name of a new profile"
          placeholder="a new profile"
          button="Add profile"
          fits={(name) => /^[A-Za-z][\w-]*$/.test(name) && !profiles.includes(name)}
          add={(name) => change(addProfile(text, name, profiles[0] ?? null))}
        />
      </Group>
    </>
  );
}

const others = (row: ProfileRow, profile: string) =>
  [profile, ...Object.keys(row.values)].map((p) => row.values[p]).filter((v) => v !== undefined && v !== "");

/** A value in its place; it becomes one when it is left, or with Enter. */
function Cell({
  label,
  text,
  missing,
  commit,
}: {
  label: string;
  text: string;
  missing: boolean;
  commit: (text: string) => void;
}) {
  const [said, setSaid] = useState<string | null>(null);
  const done = () => {
    if (said !== null && said !== text) commit(said);
    setSaid(null);
  };
  return (
    <TextInput
      size="xs"
      aria-label={label}
      className="mono"
      placeholder={missing ? "missing" : ""}
      error={missing && said === null}
      value={said ?? text}
      onChange={(e) => setSaid(e.currentTarget.value)}
      onBlur={done}
      onKeyDown={(e) => {
        if (e.key === "Enter") done();
        if (e.key === "Escape") setSaid(null);
      }}
    />
  );
}
