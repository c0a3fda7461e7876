import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { lookAtLink, useLink as takeLink } from "../core/api/access";
import { ErrorBox } from "../parts/page/ErrorBox";
import { PageTitle } from "../parts/page/Page";
import { keys } from "../queries/keys";
import "../parts/access/access.css";

/** Where a one-time link leads: one chooses a password, or makes the first account. */
export function WelcomePage() {
  // What the link holds stands behind the #: no server and no log has it. The address forgets it, the page does not.
  const [link] = useState(() => window.location.hash.slice(1));
  useEffect(() => {
    window.history.replaceState(window.history.state, "", "/welcome");
  }, []);
  const { data, error } = useQuery({
    queryKey: keys.link(link),
    queryFn: () => lookAtLink(link),
    retry: false,
    staleTime: Infinity,
  });
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [again, setAgain] = useState("");
  const [refusal, setRefusal] = useState<string | null>(null);
  const [done, setDone] = useState(false);
  const isFirst = data !== undefined && data.name === null;
  const differs = again !== "" && again !== password;
  const go = async () => {
    setRefusal(null);
    try {
      await takeLink(link, password, isFirst ? name.trim() : null);
      setDone(true);
    } catch (e) {
      setRefusal(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <main className="doorway">
      <PageTitle title="Welcome" />
      <div className="name">
        <img src="/mark.svg" width={28} height={28} alt="" /> Gate Chain
      </div>
      {done ? (
        <>
          <h1>That was it</h1>
          <p>
            <Link to="/sign-in">Sign in</Link> with your name and the password that you have just chosen.
          </p>
        </>
      ) : error ? (
        <>
          <h1>This link does not count</h1>
          <ErrorBox error={error} />
        </>
      ) : (
        data && (
          <>
            <h1>{isFirst ? "The first account" : `Welcome, ${data.name ?? ""}`}</h1>
            <p className="soft">
              {isFirst
                ? "It is an admin: whoever has it may everything, and adds the others. From then on everybody signs in."
                : "Choose the password that you will sign in with."}
            </p>
            <form
              className="sheet signin"
              onSubmit={(e) => {
                e.preventDefault();
                void go();
              }}
            >
              {isFirst && (
                <TextInput
                  label="Name"
                  description="Letters, digits, and . - _ @"
                  value={name}
                  onChange={(e) => setName(e.currentTarget.value)}
                  autoComplete="username"
                  autoFocus
                  required
                  withAsterisk={false}
                />
              )}
              {!isFirst && (
                <input type="text" autoComplete="username" value={data.name ?? ""} readOnly hidden aria-hidden />
              )}
              <PasswordInput
                label="Password"
                description="12 characters at least; a sentence is easier to remember than a riddle"
                value={password}
                onChange={(e) => setPassword(e.currentTarget.value)}
                autoComplete="new-password"
                autoFocus={!isFirst}
                required
                withAsterisk={false}
              />
              <PasswordInput
                label="The same once more"
                value={again}
                onChange={(e) => setAgain(e.currentTarget.value)}
                error={differs ? "These are not the same." : undefined}
                autoComplete="new-password"
                required
                withAsterisk={false}
              />
              <ErrorBox error={refusal} />
              <Button type="submit" disabled={password === "" || again !== password} fullWidth>
                {isFirst ? "Make the account" : "Choose this password"}
              </Button>
            </form>
          </>
        )
      )}
    </main>
  );
}
