import { Button, Menu, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { act } from "../../app/act";
import { useNow } from "../../app/useNow";
import { signedOut } from "../../core/access/signedOut";
import { roleWords } from "../../core/access/may";
import {
  addPerson,
  endSessionsOf,
  makeLink,
  removeCodesOf,
  removePerson,
  setDisabled,
  setRoles,
} from "../../core/api/access";
import type { PersonInfo } from "../../core/api/types";
import { clock } from "../../core/format";
import { peopleQuery, useAccessCommand, useMay } from "../../queries/access";
import { ErrorBox } from "../page/ErrorBox";
import { FormDialog } from "../page/FormDialog";
import { DataTable, type Column } from "../table/DataTable";
import { RoleList } from "./RoleList";
import { ShownOnce } from "./ShownOnce";

type Open =
  { what: "add" } | { what: "roles" | "remove"; person: PersonInfo } | { what: "link"; name: string; link: string };

/** Who may sign in, and what they may do. */
export function PeopleTab() {
  const { data, error } = useQuery(peopleQuery);
  const [open, setOpen] = useState<Open | null>(null);
  const now = useNow(false);
  const run = useAccessCommand();
  const close = () => setOpen(null);
  const columns: Column<PersonInfo>[] = [
    {
      title: "Name",
      cell: (p) => (
        <>
          {p.name} {p.disabled && <span className="soft">(kept out)</span>}
          {p.fullName != null && <div className="soft small">{p.fullName}</div>}
        </>
      ),
    },
    {
      title: "Roles",
      cell: (p) => (p.roles.length === 0 ? <span className="soft">none</span> : p.roles.map(roleWords).join(", ")),
    },
    {
      title: "Signs in with",
      cell: (p) => p.issuer ?? (!p.hasPassword ? "no password yet" : p.hasCodes ? "password and code" : "password"),
    },
    { title: "Signed in last", cell: (p) => (p.signedIn == null ? "never" : clock(p.signedIn, now)) },
    {
      title: { spoken: "Actions" },
      cell: (p) => (
        <div className="rowactions">
          {p.issuer == null && (
            <Button size="compact-xs" variant="default" onClick={() => setOpen({ what: "roles", person: p })}>
              Roles…
            </Button>
          )}
          <Menu position="bottom-end" withinPortal>
            <Menu.Target>
              <Button size="compact-xs" variant="default" aria-label={`More for ${p.name}`}>
                More
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              {p.issuer == null && (
                <Menu.Item
                  onClick={() =>
                    void act("No link was made", async () => {
                      const made = await run(makeLink(p.name));
                      setOpen({ what: "link", name: p.name, link: made.link });
                    })
                  }
                >
                  New link for a password…
                </Menu.Item>
              )}
              <Menu.Item onClick={() => void act("They were not signed out", () => run(endSessionsOf(p.name)))}>
                End all sessions
              </Menu.Item>
              {p.hasCodes && (
                <Menu.Item onClick={() => void act("They were not turned off", () => run(removeCodesOf(p.name)))}>
                  Turn one-time codes off
                </Menu.Item>
              )}
              <Menu.Item onClick={() => void act("Nothing was changed", () => run(setDisabled(p.name, !p.disabled)))}>
                {p.disabled ? "Let in again" : "Keep out"}
              </Menu.Item>
              <Menu.Item color="red" onClick={() => setOpen({ what: "remove", person: p })}>
                Remove…
              </Menu.Item>
            </Menu.Dropdown>
          </Menu>
        </div>
      ),
    },
  ];
  return (
    <>
      <ErrorBox error={error} />
      <div className="rowactions" style={{ marginBottom: 8 }}>
        <Button size="compact-sm" onClick={() => setOpen({ what: "add" })}>
          Add somebody…
        </Button>
      </div>
      {data && <DataTable columns={columns} rows={data} keyOf={(p) => p.name} />}
      {open?.what === "add" && (
        <AddDialog close={close} added={(name, link) => setOpen({ what: "link", name, link })} />
      )}
      {open?.what === "roles" && <RolesDialog person={open.person} close={close} />}
      {open?.what === "remove" && (
        <FormDialog
          title={`Remove ${open.person.name}?`}
          submitLabel="Remove"
          close={close}
          submit={async () => {
            await act("Nobody was removed", () => run(removePerson(open.person.name)));
            close();
          }}
        >
          Their sessions and tokens end at once. What they did stays in the audit log.
        </FormDialog>
      )}
      {open?.what === "link" && (
        <ShownOnce
          title={`A link for ${open.name}`}
          text={open.link}
          close={() => {
            // The first account has turned signing in on: this page is for who signs in from now on.
            if (signedOut.isHeld) window.location.assign(open.link);
            else close();
          }}
        >
          <p>
            Give it to {open.name}: with it they choose a password. It counts once, for 24 hours, and is not shown
            again.
          </p>
        </ShownOnce>
      )}
    </>
  );
}

function AddDialog({ close, added }: { close: () => void; added: (name: string, link: string) => void }) {
  const { session } = useMay();
  const run = useAccessCommand();
  const [name, setName] = useState("");
  const [fullName, setFullName] = useState("");
  // The first one is an admin, or nobody could add the second.
  const [roles, setRoles] = useState<string[]>([session?.state === "open" ? "admin" : "viewer"]);
  return (
    <FormDialog
      title="Add somebody"
      submitLabel="Add"
      size="lg"
      close={close}
      disabled={name.trim() === ""}
      submit={async () => {
        // Nothing can be read again once there is an account, and the link is told only here.
        signedOut.isHeld = session?.state === "open";
        const made = await run(addPerson(name.trim(), fullName.trim() === "" ? null : fullName.trim(), roles));
        added(made.person.name, made.link);
      }}
    >
      <TextInput label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} data-autofocus />
      <TextInput
        label="Name in full"
        mt="sm"
        mb="sm"
        value={fullName}
        onChange={(e) => setFullName(e.currentTarget.value)}
      />
      <RoleList roles={roles} change={setRoles} />
    </FormDialog>
  );
}

function RolesDialog({ person, close }: { person: PersonInfo; close: () => void }) {
  const run = useAccessCommand();
  const [roles, change] = useState<string[]>([...person.roles]);
  return (
    <FormDialog
      title={`Roles of ${person.name}`}
      submitLabel="Give these"
      size="lg"
      close={close}
      submit={async () => {
        await run(setRoles(person.name, roles));
        close();
      }}
    >
      <RoleList roles={roles} change={change} />
    </FormDialog>
  );
}
