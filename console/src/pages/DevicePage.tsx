import { Button, Group, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { useState } from "react";
import { useNow } from "../app/useNow";
import { roleWords } from "../core/access/may";
import { decideDevice, getDevice } from "../core/api/access";
import { clock } from "../core/format";
import { ErrorBox } from "../parts/page/ErrorBox";
import { Page } from "../parts/page/Page";
import { useMay } from "../queries/access";
import { keys } from "../queries/keys";
import "../parts/access/access.css";

const route = getRouteApi("/device");

/** Where somebody lets the command line in that shows a code. */
export function DevicePage() {
  const { code } = route.useSearch();
  const navigate = route.useNavigate();
  const [typed, setTyped] = useState("");
  const [decided, setDecided] = useState<"in" | "out" | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const { session } = useMay();
  const now = useNow(false);
  const { data, error } = useQuery({
    queryKey: keys.device(code),
    queryFn: () => getDevice(code ?? ""),
    enabled: code !== undefined && decided === null,
    retry: false,
  });
  const decide = async (allow: boolean) => {
    setRefusal(null);
    try {
      await decideDevice(code ?? "", allow);
      setDecided(allow ? "in" : "out");
    } catch (e) {
      setRefusal(e instanceof Error ? e.message : String(e));
    }
  };
  if (decided !== null) {
    return (
      <Page title={decided === "in" ? "It is let in" : "It is kept out"}>
        <p>
          {decided === "in"
            ? "Go back to the terminal: it goes on by itself. You can take this back in your profile, under tokens."
            : "The terminal is told so."}
        </p>
      </Page>
    );
  }
  return (
    <Page title="Let a program in" error={code === undefined ? null : error}>
      {(code === undefined || error) && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void navigate({ search: { code: typed.trim() } });
          }}
        >
          <TextInput
            label="The code that the terminal shows"
            placeholder="BCDF-GHJK"
            value={typed}
            onChange={(e) => setTyped(e.currentTarget.value)}
            w={260}
            autoFocus
          />
          <Button type="submit" mt="sm" disabled={typed.trim() === ""}>
            Look
          </Button>
        </form>
      )}
      {data && (
        <div className="sheet" style={{ maxWidth: 460, padding: 20 }}>
          <div className="usercode">{data.userCode}</div>
          <p>
            <b>{data.client}</b> asks to be let in as <b>{session?.name}</b>, from {data.from || "an unknown address"}.
          </p>
          <p className="soft small">
            It may then what you may: {session?.roles.map(roleWords).join(", ")}. It counts for 30 days, and the
            question until {clock(data.expires, now)}. Confirm only what you have just begun yourself, with the same
            code.
          </p>
          <ErrorBox error={refusal} />
          <Group justify="flex-end" mt="md">
            <Button variant="default" onClick={() => void decide(false)}>
              Keep it out
            </Button>
            <Button onClick={() => void decide(true)}>Let it in</Button>
          </Group>
        </div>
      )}
    </Page>
  );
}
