import { useQuery } from "@tanstack/react-query";
import { Page } from "../parts/page/Page";
import { EmptyState } from "../parts/page/EmptyState";
import { NodeTable } from "../parts/nodes/NodeTable";
import { nodesQuery } from "../queries/service";

/** The services that share the database: how they are, what they are at, which does what one does for all. */
export function NodesPage() {
  const { data, error } = useQuery(nodesQuery);
  const leader = data?.nodes.find((n) => n.leads);
  const there = data?.nodes.filter((n) => n.state === "there").length ?? 0;
  return (
    <Page title="Nodes" error={error}>
      {data && !data.shared && (
        <EmptyState>
          This service has its database alone. More of them can share one, each with its own machine’s work: start them
          with <code>gatechain serve --database … --join …</code>.
        </EmptyState>
      )}
      {data?.shared === true && (
        <>
          <p className="soft">
            {there === 1 ? "One node is" : `${String(there)} nodes are`} there.{" "}
            {leader
              ? `${leader.name} does what one does for all: schedules, watches, backfills, history.`
              : "Nobody does what one does for all at the moment: schedules wait until one does."}
          </p>
          <NodeTable nodes={data.nodes} />
        </>
      )}
    </Page>
  );
}
