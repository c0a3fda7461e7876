import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useRef } from "react";
import { act } from "../../app/act";
import { useChainCommands } from "../../queries/chains";

const toBase64 = async (file: File) => {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
};

/** Brings a workspace folder of this machine to the service; each chain that changed gets a new release. */
export function ImportFolder() {
  const input = useRef<HTMLInputElement>(null);
  const { importWorkspace } = useChainCommands();
  const take = async (list: FileList) => {
    const found: Record<string, string> = {};
    for (const file of list) {
      // The browser names files with the folder that was chosen in front; hidden ones are left out.
      const name = file.webkitRelativePath.split("/").slice(1).join("/") || file.name;
      if (!name.split("/").some((p) => p.startsWith(".")) && file.size <= 4 << 20) found[name] = await toBase64(file);
    }
    const result = await act("Nothing was imported", () => importWorkspace(found));
    if (!result) return;
    notifications.show({ title: "Imported", message: result.chains.map((c) => c.name).join(", ") });
  };
  return (
    <>
      <Button size="xs" variant="default" onClick={() => input.current?.click()}>
        Import folder…
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        aria-label="A workspace folder"
        {...{ webkitdirectory: "" }}
        onChange={(e) => {
          if (e.currentTarget.files?.length) void take(e.currentTarget.files);
          e.currentTarget.value = "";
        }}
      />
    </>
  );
}
