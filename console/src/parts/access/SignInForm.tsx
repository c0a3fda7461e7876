import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useState } from "react";
import { signIn } from "../../core/api/access";
import { Refused } from "../../core/api/call";
import type { SessionInfo } from "../../core/api/types";
import { ErrorBox } from "../page/ErrorBox";
import "./access.css";

/** Name, password and, once it is asked for, a one-time code. */
export function SignInForm({
  name: known,
  provider,
  back,
  done,
}: {
  /** Who it has to be; whoever it is when left out. */
  name?: string;
  provider: string | null;
  /** The address to come back to from the provider. */
  back: string;
  done: (session: SessionInfo) => void;
}) {
  const [name, setName] = useState(known ?? "");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState("");
  const [needsCode, setNeedsCode] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const go = async () => {
    setBusy(true);
    setError(null);
    try {
      done(await signIn(name.trim(), password, code.trim() === "" ? null : code.trim()));
    } catch (e) {
      const asksForCode = e instanceof Refused && e.details.needsCode === true;
      // That a code is needed is no mistake of theirs.
      setError(asksForCode && !needsCode ? null : e instanceof Error ? e.message : String(e));
      setNeedsCode(needsCode || asksForCode);
      setCode("");
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <form
        className="signin"
        onSubmit={(e) => {
          e.preventDefault();
          if (!busy) void go();
        }}
      >
        <TextInput
          label="Name"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          readOnly={known !== undefined}
          autoComplete="username"
          autoFocus={known === undefined}
          required
          withAsterisk={false}
        />
        <PasswordInput
          label="Password"
          value={password}
          onChange={(e) => setPassword(e.currentTarget.value)}
          autoComplete="current-password"
          autoFocus={known !== undefined}
          required
          withAsterisk={false}
        />
        {needsCode && (
          <TextInput
            label="One-time code"
            description="The six digits that your authenticator shows, or a recovery code"
            value={code}
            onChange={(e) => setCode(e.currentTarget.value)}
            autoComplete="one-time-code"
            inputMode="numeric"
            autoFocus
            required
            withAsterisk={false}
          />
        )}
        <ErrorBox error={error} />
        <Button type="submit" loading={busy} fullWidth>
          Sign in
        </Button>
      </form>
      {provider !== null && (
        <div className="signin provider">
          <span className="soft small">or</span>
          <Button
            component="a"
            variant="default"
            fullWidth
            href={`/api/session/provider?back=${encodeURIComponent(back)}`}
          >
            Go on with {provider}
          </Button>
        </div>
      )}
    </>
  );
}
