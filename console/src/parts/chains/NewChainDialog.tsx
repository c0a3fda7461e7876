import { Autocomplete, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { act } from "../../app/act";
import { getDraft, saveDraft } from "../../core/api/client";
import { renamedSource } from "../../core/designer/newChain";
import { templatesQuery } from "../../queries/chains";
import { FormDialog } from "../page/FormDialog";

/** The folders that chains lie in, and those around them. */
const foldersOf = (chains: { area: string }[]) =>
  [
    ...new Set(
      chains
        .flatMap((c) => c.area.split("/").map((_, i, parts) => parts.slice(0, i + 1).join("/")))
        .filter((a) => a !== ""),
    ),
  ].sort();

/** A new chain: from a template that teaches something, or like one that is there. */
export function NewChainDialog({
  like,
  chains,
  close,
}: {
  like: string;
  chains: { name: string; area: string }[];
  close: () => void;
}) {
  const taken = chains.map((c) => c.name);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { data: templates } = useQuery(templatesQuery);
  const [name, setName] = useState(like === "" ? "" : `${like}-2`);
  const [area, setArea] = useState(chains.find((c) => c.name === like)?.area ?? "");
  const [template, setTemplate] = useState("empty");
  const isName = /^[A-Za-z][A-Za-z0-9-]{0,99}$/.test(name);
  const wrong =
    name === "" || (isName && !taken.includes(name))
      ? null
      : taken.includes(name)
        ? "There is already a chain of that name."
        : "Letters, digits and -, beginning with a letter.";
  const folder = area.trim().replace(/^\/+|\/+$/g, "");
  const create = async () => {
    const made = await act("The chain was not made", async () => {
      // Whoever is quicker than the list of templates waits for it.
      const source =
        like === ""
          ? (await queries.ensureQueryData(templatesQuery)).find((t) => t.name === template)?.source
          : (await getDraft(like)).source;
      if (source === undefined) throw new Error(`There is no template “${template}” any more.`);
      return saveDraft(name, 0, renamedSource(source, name), null, folder);
    });
    if (made) await navigate({ to: "/chains/$name/design", params: { name } });
  };
  return (
    <FormDialog
      title={like === "" ? "New chain" : `New chain like ${like}`}
      submitLabel="Design it"
      submit={create}
      close={close}
      disabled={!isName || taken.includes(name)}
      size="lg"
    >
      <TextInput
        data-autofocus
        label="Name"
        placeholder="for example milk-intake"
        value={name}
        error={wrong}
        onChange={(e) => setName(e.currentTarget.value)}
      />
      <Autocomplete
        mt="sm"
        label="Folder"
        description="It sees the connections, profiles and lanes of this folder, and of those around it."
        placeholder="the workspace itself; or for example sales/daily"
        data={foldersOf(chains)}
        value={area}
        onChange={setArea}
      />
      {like === "" && (
        <fieldset className="templates">
          <legend>Begin with</legend>
          {templates?.map((t) => (
            <label key={t.name} data-chosen={template === t.name}>
              <input
                type="radio"
                name="template"
                value={t.name}
                checked={template === t.name}
                onChange={() => setTemplate(t.name)}
              />
              <span>
                <b>{t.title}</b>
                <span className="soft small">{t.teaches}</span>
              </span>
            </label>
          ))}
        </fieldset>
      )}
    </FormDialog>
  );
}
