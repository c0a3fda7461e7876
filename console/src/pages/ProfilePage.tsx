import { Button, PasswordInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../app/act";
import { useNow } from "../app/useNow";
import { roleWords } from "../core/access/may";
import { endMySession, revokeMyToken, setMyPassword } from "../core/api/access";
import type { SessionEntry } from "../core/api/types";
import { clock } from "../core/format";
import { OneTimeCodes } from "../parts/access/OneTimeCodes";
import { TokenDialog } from "../parts/access/TokenDialog";
import { TokenTable } from "../parts/access/TokenTable";
import { EmptyState } from "../parts/page/EmptyState";
import { FormDialog } from "../parts/page/FormDialog";
import { Page } from "../parts/page/Page";
import { DataTable, type Column } from "../parts/table/DataTable";
import { mySessionsQuery, myTokensQuery, useAccessCommand, useMay } from "../queries/access";
import "../parts/access/access.css";

/** One's own account: password, one-time codes, sessions, tokens. */
export function ProfilePage() {
  const { session } = useMay();
  if (!session) return null;
  if (session.name == null) {
    return (
      <Page title="Profile">
        <EmptyState>Nobody signs in here: there are no accounts.</EmptyState>
      </Page>
    );
  }
  return (
    <Page
      title={session.fullName ?? session.name}
      facts={
        <span className="soft small">
          {session.name} · {session.roles.length === 0 ? "no role yet" : session.roles.map(roleWords).join(", ")}
        </span>
      }
    >
      {session.state === "needs-codes" && (
        <div className="errorbox" role="alert">
          Your role takes one-time codes. Set them up here; until then you may do nothing else.
        </div>
      )}
      <Password />
      <h2 className="second">One-time codes</h2>
      <OneTimeCodes />
      <h2 className="second">Sessions</h2>
      <Sessions />
      <Tokens />
    </Page>
  );
}

function Password() {
  const [changing, setChanging] = useState(false);
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  return (
    <>
      <h2 className="second">Password</h2>
      <Button size="compact-sm" variant="default" onClick={() => setChanging(true)}>
        Choose another…
      </Button>
      {changing && (
        <FormDialog
          title="Another password"
          submitLabel="Choose it"
          close={() => setChanging(false)}
          disabled={old === "" || next === ""}
          submit={async () => {
            await setMyPassword(old, next);
            window.location.assign("/sign-in");
          }}
        >
          <p className="soft small">All your sessions end, this one too: you sign in again with the new one.</p>
          <PasswordInput
            label="The one that you have now"
            value={old}
            onChange={(e) => setOld(e.currentTarget.value)}
            autoComplete="current-password"
            data-autofocus
          />
          <PasswordInput
            mt="sm"
            label="The new one"
            description="12 characters at least; a sentence is easier to remember than a riddle"
            value={next}
            onChange={(e) => setNext(e.currentTarget.value)}
            autoComplete="new-password"
          />
        </FormDialog>
      )}
    </>
  );
}

function Sessions() {
  const { data } = useQuery(mySessionsQuery);
  const run = useAccessCommand();
  const now = useNow(false);
  const columns: Column<SessionEntry>[] = [
    { title: "Browser", cell: (s) => (s.isThis ? "this one" : s.agent), hint: (s) => s.agent },
    { title: "From", cell: (s) => s.from },
    { title: "Signed in", cell: (s) => clock(s.began, now) },
    { title: "Seen", cell: (s) => clock(s.seen, now) },
    {
      title: { spoken: "Actions" },
      cell: (s) =>
        !s.isThis && (
          <Button
            size="compact-xs"
            variant="default"
            onClick={() => void act("It was not ended", () => run(endMySession(s.id)))}
          >
            End
          </Button>
        ),
    },
  ];
  return data ? <DataTable columns={columns} rows={data} keyOf={(s) => s.id} /> : null;
}

function Tokens() {
  const { data } = useQuery(myTokensQuery);
  const [making, setMaking] = useState(false);
  return (
    <>
      <div className="headline" style={{ marginTop: 28, marginBottom: 8 }}>
        <h2 className="second" style={{ margin: 0 }}>
          Tokens
        </h2>
        <div className="rest">
          <Button size="compact-sm" variant="default" onClick={() => setMaking(true)}>
            Make a token…
          </Button>
        </div>
      </div>
      {data && <TokenTable tokens={data} revoke={revokeMyToken} />}
      {making && <TokenDialog close={() => setMaking(false)} />}
    </>
  );
}
