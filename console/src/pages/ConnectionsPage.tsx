import { useQuery } from "@tanstack/react-query";
import { listConnections, listProfiles, listSecrets } from "../core/api/client";
import { ConnectionTable } from "../parts/connections/ConnectionTable";
import { ProfileTable } from "../parts/connections/ProfileTable";
import { SecretTable } from "../parts/connections/SecretTable";

/** What chains go to, with which secrets, and under which values. */
export function ConnectionsPage() {
  const connections = useQuery({ queryKey: ["connections"], queryFn: listConnections });
  const secrets = useQuery({ queryKey: ["secrets"], queryFn: listSecrets });
  const profiles = useQuery({ queryKey: ["profiles"], queryFn: listProfiles });
  const error = connections.error ?? secrets.error ?? profiles.error;
  return (
    <div className="page">
      <div className="headline">
        <h1>Connections</h1>
      </div>
      {error && <div className="errorbox">{error.message}</div>}
      {connections.data && <ConnectionTable connections={connections.data} secrets={secrets.data ?? []} />}
      <h2 className="second">Secrets</h2>
      {secrets.data && <SecretTable secrets={secrets.data} />}
      <h2 className="second">Profiles</h2>
      {profiles.data && <ProfileTable profiles={profiles.data} />}
    </div>
  );
}
