import { useQueryClient } from "@tanstack/react-query";
import { getRouteApi, useRouter } from "@tanstack/react-router";
import { useEffect } from "react";
import { SignInForm } from "../parts/access/SignInForm";
import { ErrorBox } from "../parts/page/ErrorBox";
import { PageTitle } from "../parts/page/Page";
import { sessionQuery, useMay } from "../queries/access";
import "../parts/access/access.css";

const route = getRouteApi("/sign-in");

const refusals: Record<string, string> = {
  role: "You are known there, but none of your groups has a role here. Ask an admin of this service.",
  provider: "Signing in there did not work. Try again.",
};

/** Where one signs in. */
export function SignInPage() {
  const { back, refused } = route.useSearch();
  const { session } = useMay();
  const queries = useQueryClient();
  const router = useRouter();
  const home = back ?? "/";
  const isIn = session !== undefined && session.state !== "signed-out" && session.state !== "first-start";
  useEffect(() => {
    if (isIn) router.history.replace(home);
  }, [isIn, router, home]);
  if (!session || isIn) return null;
  return (
    <main className="doorway">
      <PageTitle title="Sign in" />
      <div className="name">
        <img src="/mark.svg" width={28} height={28} alt="" /> Gate Chain
      </div>
      {session.state === "first-start" ? (
        <>
          <h1>There are no accounts yet</h1>
          <p className="soft">
            When the service started it printed an address with which the first account is made. Look at its output, and
            open that.
          </p>
        </>
      ) : (
        <>
          <h1>Sign in</h1>
          <ErrorBox error={refused === undefined ? null : (refusals[refused] ?? null)} />
          <div className="sheet">
            <SignInForm
              provider={session.provider}
              back={home}
              done={(found) => {
                // Nothing of who was here before may be seen.
                queries.clear();
                queries.setQueryData(sessionQuery.queryKey, found);
                router.history.replace(found.state === "needs-codes" ? "/profile" : home);
              }}
            />
          </div>
        </>
      )}
    </main>
  );
}
