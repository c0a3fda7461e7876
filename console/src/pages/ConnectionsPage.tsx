import { useQuery } from "@tanstack/react-query";
import { ConnectionTable } from "../parts/connections/ConnectionTable";
import { ProfileTable } from "../parts/connections/ProfileTable";
import { SecretTable } from "../parts/connections/SecretTable";
import { Page } from "../parts/page/Page";
import { connectionsQuery, profilesQuery, secretsQuery } from "../queries/service";

/** What chains go to, with which secrets, and under which values. */
export function ConnectionsPage() {
  const connections = useQuery(connectionsQuery);
  const secrets = useQuery(secretsQuery);
  const profiles = useQuery(profilesQuery);
  const isThere = connections.data && secrets.data && profiles.data;
  return (
    <Page title="Connections" error={connections.error ?? secrets.error ?? profiles.error}>
      {/* All at once: what comes first would be moved by what comes later. */}
      {isThere && (
        <>
          <ConnectionTable connections={connections.data} secrets={secrets.data} />
          <h2 className="second">Secrets</h2>
          <SecretTable secrets={secrets.data} />
          <h2 className="second">Profiles</h2>
          <ProfileTable profiles={profiles.data} />
        </>
      )}
    </Page>
  );
}
