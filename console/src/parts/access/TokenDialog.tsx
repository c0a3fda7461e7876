import { NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { addMyToken } from "../../core/api/access";
import { useAccessCommand, useMay } from "../../queries/access";
import { FormDialog } from "../page/FormDialog";
import { RoleList } from "./RoleList";
import { ShownOnce } from "./ShownOnce";

const spans = [
  { value: "7", label: "7 days" },
  { value: "30", label: "30 days" },
  { value: "90", label: "90 days" },
  { value: "365", label: "a year" },
  { value: "", label: "until it is revoked" },
];

/** Makes a token of one's own, and shows it once. */
export function TokenDialog({ close }: { close: () => void }) {
  const run = useAccessCommand();
  const { session } = useMay();
  const [name, setName] = useState("");
  const [roles, setRoles] = useState<string[]>([
    session?.roles.includes("admin") ? "viewer" : (session?.roles[0] ?? "viewer"),
  ]);
  const [days, setDays] = useState("90");
  const [made, setMade] = useState<string | null>(null);
  if (made !== null) {
    return (
      <ShownOnce title="The token" text={made} close={close}>
        <p>Copy it now: it is not shown again. A program sends it as “Authorization: Bearer …”.</p>
      </ShownOnce>
    );
  }
  return (
    <FormDialog
      title="A token for a program"
      submitLabel="Make it"
      size="lg"
      close={close}
      disabled={name.trim() === "" || roles.length === 0}
      submit={async () => {
        setMade((await run(addMyToken({ name, roles, days: days === "" ? null : Number(days) }))).token);
      }}
    >
      <TextInput
        label="What it is for"
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
        data-autofocus
        mb="sm"
      />
      <RoleList roles={roles} change={setRoles} />
      <NativeSelect
        label="How long it counts"
        mt="sm"
        value={days}
        data={spans}
        onChange={(e) => setDays(e.currentTarget.value)}
      />
    </FormDialog>
  );
}
