import { FileInput, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { getDraft, saveDraft } from "../../core/api/client";
import type { FileInfo } from "../../core/api/types";
import { aboutFiles, base64Of } from "../../core/files/kinds";
import { chainsQuery } from "../../queries/chains";
import { FormDialog } from "../page/FormDialog";

/** Makes a file: settings of a folder, or an attachment of a chain, which comes with its draft. */
export function NewFile({ files, close }: { files: FileInfo[]; close: () => void }) {
  const navigate = useNavigate();
  const [kind, setKind] = useState("connections");
  const [folder, setFolder] = useState("");
  const [attachment, setAttachment] = useState<Attachment>({ chain: "", name: "", text: "", file: null });
  const [refused, setRefused] = useState<string | null>(null);
  const isAttachment = kind === "attachment";
  const path = `${folder.trim().replace(/^\/+|\/+$/g, "")}/${kind}.yaml`.replace(/^\//, "");
  const isThere = files.some((f) => f.path === path);
  const make = async () => {
    if (!isAttachment) {
      await navigate({ to: "/files/edit", search: { path } });
      return;
    }
    try {
      await attach(attachment);
      await navigate({ to: "/chains/$name/design", params: { name: attachment.chain } });
    } catch (e) {
      setRefused(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <FormDialog
      title="New file"
      submitLabel={isAttachment ? "Put it to the draft" : isThere ? "Open it" : "Write it"}
      close={close}
      error={refused}
      disabled={isAttachment && (attachment.chain === "" || attachment.name.trim() === "")}
      submit={make}
      size="lg"
    >
      <NativeSelect
        label="What it is"
        value={kind}
        onChange={(e) => setKind(e.currentTarget.value)}
        data={Object.entries(aboutFiles).map(([value, label]) => ({
          value,
          label: value === "attachment" ? "an attachment of a chain: a query, a script, a mail" : `${value}: ${label}`,
        }))}
      />
      {isAttachment ? (
        <AttachmentFields given={attachment} change={setAttachment} />
      ) : (
        <>
          <TextInput
            mt="sm"
            label="Folder of the workspace"
            description="It holds for the chains there and below; empty for all of them."
            placeholder="sales/daily"
            value={folder}
            onChange={(e) => setFolder(e.currentTarget.value)}
          />
          <p className="small soft">{isThere ? `${path} is there already.` : `It will be ${path}.`}</p>
        </>
      )}
    </FormDialog>
  );
}

interface Attachment {
  chain: string;
  name: string;
  text: string;
  file: File | null;
}

async function attach({ chain, name, text, file }: Attachment) {
  const draft = await getDraft(chain);
  const bytes = file === null ? new TextEncoder().encode(text) : new Uint8Array(await file.arrayBuffer());
  await saveDraft(chain, draft.version, draft.source, { [name.trim()]: base64Of(bytes) });
}

function AttachmentFields({ given, change }: { given: Attachment; change: (next: Attachment) => void }) {
  const { data } = useQuery(chainsQuery);
  return (
    <>
      <NativeSelect
        mt="sm"
        label="Chain"
        description="It comes with the chain’s draft, and with its next release."
        required
        value={given.chain}
        onChange={(e) => change({ ...given, chain: e.currentTarget.value })}
        data={["", ...(data ?? []).filter((c) => !c.retired).map((c) => c.name)]}
      />
      <TextInput
        mt="sm"
        label="Name"
        description="As steps name it: { file: sql/count.sql }"
        required
        placeholder="sql/count.sql"
        value={given.name}
        onChange={(e) => change({ ...given, name: e.currentTarget.value })}
      />
      <FileInput
        mt="sm"
        label="Upload"
        placeholder="a file of this computer"
        clearable
        value={given.file}
        onChange={(file) =>
          change({ ...given, file, name: given.name === "" && file !== null ? file.name : given.name })
        }
      />
      {given.file === null && (
        <Textarea
          mt="sm"
          label="Or its text"
          autosize
          minRows={4}
          maxRows={14}
          className="mono"
          value={given.text}
          onChange={(e) => change({ ...given, text: e.currentTarget.value })}
        />
      )}
    </>
  );
}
