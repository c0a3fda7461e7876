import { Button, Checkbox, TextInput, Textarea } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { setSignIn } from "../../core/api/access";
import type { SignInInfo } from "../../core/api/types";
import { signInQuery, useAccessCommand } from "../../queries/access";
import { ErrorBox } from "../page/ErrorBox";

const roles = ["viewer", "operator", "designer", "keeper", "admin"];

/** How people sign in: for whom one-time codes are needed, and at which provider. */
export function SignInTab() {
  const { data, error } = useQuery(signInQuery);
  return (
    <>
      <ErrorBox error={error} />
      {data && <Form settings={data} />}
    </>
  );
}

function Form({ settings }: { settings: SignInInfo }) {
  const run = useAccessCommand();
  const [codesFor, setCodesFor] = useState<string[]>([...settings.codesFor]);
  const provider = settings.provider;
  const [uses, setUses] = useState(provider != null);
  const [name, setName] = useState(provider?.name ?? "");
  const [issuer, setIssuer] = useState(provider?.issuer ?? "");
  const [clientId, setClientId] = useState(provider?.clientId ?? "gatechain");
  const [clientSecret, setClientSecret] = useState(provider?.clientSecret ?? "");
  const [claim, setClaim] = useState(provider?.claim ?? "groups");
  const [table, setTable] = useState(
    Object.entries(provider?.roles ?? {})
      .map(([value, role]) => `${value} = ${role}`)
      .join("\n"),
  );
  const [refusal, setRefusal] = useState<string | null>(null);
  const [saved, setSaved] = useState(false);
  const save = async () => {
    setRefusal(null);
    setSaved(false);
    const rows = table
      .split("\n")
      .map((line) => line.split("="))
      .filter(([value, role]) => value !== undefined && role !== undefined)
      .map(([value = "", role = ""]) => [value.trim(), role.trim()] as const);
    try {
      await run(
        setSignIn({
          codesFor,
          provider: uses
            ? {
                name: name.trim(),
                issuer: issuer.trim(),
                clientId: clientId.trim(),
                clientSecret: clientSecret.trim() === "" ? null : clientSecret.trim(),
                claim: claim.trim(),
                roles: Object.fromEntries(rows),
              }
            : null,
        }),
      );
      setSaved(true);
    } catch (e) {
      setRefusal(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <form
      style={{ maxWidth: 560 }}
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <fieldset style={{ border: 0, padding: 0, margin: "0 0 20px" }}>
        <legend>One-time codes are needed for</legend>
        {roles.map((role) => (
          <Checkbox
            key={role}
            mt={6}
            label={role}
            checked={codesFor.includes(role)}
            onChange={(e) =>
              setCodesFor(e.currentTarget.checked ? [...codesFor, role] : codesFor.filter((r) => r !== role))
            }
          />
        ))}
      </fieldset>
      <Checkbox
        label="People sign in at an OpenID provider, too"
        checked={uses}
        onChange={(e) => setUses(e.currentTarget.checked)}
      />
      {uses && (
        <>
          <TextInput
            mt="sm"
            label="Its name"
            description="On the sign-in page"
            value={name}
            onChange={(e) => setName(e.currentTarget.value)}
            required
          />
          <TextInput
            mt="sm"
            label="Its address (issuer)"
            placeholder="https://id.larkmoor.example"
            value={issuer}
            onChange={(e) => setIssuer(e.currentTarget.value)}
            required
          />
          <TextInput
            mt="sm"
            label="What this service is called there (client id)"
            value={clientId}
            onChange={(e) => setClientId(e.currentTarget.value)}
            required
          />
          <TextInput
            mt="sm"
            label="The secret that this service shows there"
            description="Its name under Connections; none for a public client"
            value={clientSecret}
            onChange={(e) => setClientSecret(e.currentTarget.value)}
          />
          <TextInput
            mt="sm"
            label="The claim that gives roles"
            value={claim}
            onChange={(e) => setClaim(e.currentTarget.value)}
            required
          />
          <Textarea
            mt="sm"
            label="Its values, and the role of each"
            description="A line each: tank-crew = operator:intake"
            autosize
            minRows={3}
            value={table}
            onChange={(e) => setTable(e.currentTarget.value)}
          />
          <p className="soft small">
            There, allow the address{" "}
            <span className="mono">{window.location.origin}/api/session/provider/callback</span>.
          </p>
        </>
      )}
      <ErrorBox error={refusal} />
      <Button type="submit" mt="md">
        Save
      </Button>{" "}
      <span role="status" className="soft small">
        {saved && "saved"}
      </span>
    </form>
  );
}
