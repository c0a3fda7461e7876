import { Button, NativeSelect, TextInput } from "@mantine/core";

const words = ["viewer", "operator", "designer", "keeper", "admin"];

const says: Record<string, string> = {
  viewer: "sees",
  operator: "starts, stops, resumes",
  designer: "and changes chains",
  keeper: "connections and secrets",
  admin: "everything",
};

/** Roles with the folder that each is for. */
export function RoleList({ roles, change }: { roles: readonly string[]; change: (roles: string[]) => void }) {
  const set = (index: number, role: string) => change(roles.map((r, i) => (i === index ? role : r)));
  return (
    <div className="rolelist" role="group" aria-label="Roles">
      {roles.map((role, index) => {
        const [word = "viewer", folder = ""] = role.split(":");
        return (
          <div key={index}>
            <NativeSelect
              label={index === 0 ? "Role" : undefined}
              aria-label={`Role ${String(index + 1)}`}
              value={word}
              data={words.map((w) => ({ value: w, label: `${w}: ${says[w] ?? ""}` }))}
              onChange={(e) => {
                const next = e.currentTarget.value;
                set(index, folder === "" || next === "admin" ? next : `${next}:${folder}`);
              }}
            />
            <TextInput
              label={index === 0 ? "In the folder" : undefined}
              aria-label={`Folder of role ${String(index + 1)}`}
              placeholder="everywhere"
              value={folder}
              disabled={word === "admin"}
              onChange={(e) => {
                const next = e.currentTarget.value.replace(/^\/+/, "");
                set(index, next === "" ? word : `${word}:${next}`);
              }}
            />
            <Button
              variant="subtle"
              size="compact-sm"
              mb={4}
              aria-label={`Take away role ${String(index + 1)}`}
              onClick={() => change(roles.filter((_, i) => i !== index))}
            >
              Take away
            </Button>
          </div>
        );
      })}
      <div>
        <Button variant="default" size="compact-sm" onClick={() => change([...roles, "viewer"])}>
          Add a role
        </Button>
      </div>
    </div>
  );
}
