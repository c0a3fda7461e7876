import { Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { getRouteApi } from "@tanstack/react-router";
import { revokeToken } from "../core/api/access";
import { AuditTab } from "../parts/access/AuditTab";
import { PeopleTab } from "../parts/access/PeopleTab";
import { RulesTab } from "../parts/access/RulesTab";
import { SignInTab } from "../parts/access/SignInTab";
import { TokenTable } from "../parts/access/TokenTable";
import { EmptyState } from "../parts/page/EmptyState";
import { Page } from "../parts/page/Page";
import { tokensQuery, useMay } from "../queries/access";
import "../parts/access/access.css";

const route = getRouteApi("/access");

/** People, tokens, what folders may use, how one signs in, and who has done what. */
export function AccessPage() {
  const { tab } = route.useSearch();
  const navigate = route.useNavigate();
  const { session, whyNot } = useMay();
  if (!session) return null;
  const refusal = whyNot("administer");
  if (refusal !== null) {
    return (
      <Page title="Access">
        <EmptyState>{refusal}</EmptyState>
      </Page>
    );
  }
  return (
    <Page title="Access">
      {session.state === "open" && (
        <div className="errorbox">
          There are no accounts: everybody on this machine may everything, and nobody else is answered. The first
          account that you add turns signing in on, for good; it is an admin.
        </div>
      )}
      <Tabs
        value={tab ?? "people"}
        keepMounted={false}
        onChange={(next) =>
          void navigate({
            search: { tab: next === "people" ? undefined : ((next ?? undefined) as typeof tab) },
            replace: true,
          })
        }
      >
        <Tabs.List>
          <Tabs.Tab value="people">People</Tabs.Tab>
          <Tabs.Tab value="tokens">Tokens</Tabs.Tab>
          <Tabs.Tab value="rules">Folders</Tabs.Tab>
          <Tabs.Tab value="sign-in">Signing in</Tabs.Tab>
          <Tabs.Tab value="audit">Audit log</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="people" pt="md">
          <PeopleTab />
        </Tabs.Panel>
        <Tabs.Panel value="tokens" pt="md">
          <Tokens />
        </Tabs.Panel>
        <Tabs.Panel value="rules" pt="md">
          <RulesTab />
        </Tabs.Panel>
        <Tabs.Panel value="sign-in" pt="md">
          <SignInTab />
        </Tabs.Panel>
        <Tabs.Panel value="audit" pt="md">
          <AuditTab />
        </Tabs.Panel>
      </Tabs>
    </Page>
  );
}

function Tokens() {
  const { data } = useQuery(tokensQuery);
  return data ? <TokenTable tokens={data} revoke={revokeToken} withOwner /> : null;
}
