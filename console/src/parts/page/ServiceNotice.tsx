import { Button } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { act } from "../../app/act";
import { clock } from "../../core/format";
import { useNow } from "../../app/useNow";
import { healthQuery, useServiceCommands } from "../../queries/service";

const shown = 3;

/** What keeps the service from its work, above every page: nobody should have to look for it. */
export function ServiceNotice() {
  const { data } = useQuery(healthQuery);
  const now = useNow(false);
  if (!data || (data.trouble == null && data.stranded.length === 0 && data.refused === 0)) return null;
  return (
    <div role="alert" aria-label="The service">
      {data.trouble != null && (
        <div className="notice bad">
          <span>
            ✕ Nothing can be written{data.since != null && ` since ${clock(data.since, now)}`}: {data.trouble}. Runs
            hold still, and go on by themselves once it is put right.
          </span>
        </div>
      )}
      {data.refused > 0 && (
        <div className="notice bad">
          <span>
            ✕ {data.refused === 1 ? "A trigger" : `${String(data.refused)} times a trigger`} has not started its chain
            though it should have, in the last day: <Link to="/triggers">see what was refused or late</Link>
          </span>
        </div>
      )}
      {data.stranded.slice(0, shown).map((run) => (
        <Stranded key={run.run} {...run} />
      ))}
      {data.stranded.length > shown && (
        <div className="notice bad">
          … and {data.stranded.length - shown} more runs that can't continue: gatechain recover lists them.
        </div>
      )}
    </div>
  );
}

function Stranded({ run, why }: { run: number; why: string }) {
  const commands = useServiceCommands();
  const recover = useMutation({
    mutationFn: () => act(`Run ${String(run)} can't continue`, () => commands.recover(run)),
  });
  return (
    <div className="notice bad">
      <span>
        ✕{" "}
        <Link to="/runs/$id" params={{ id: String(run) }}>
          Run {run}
        </Link>{" "}
        can't continue: {why}
      </span>
      <Button
        size="compact-xs"
        variant="default"
        loading={recover.isPending}
        onClick={() => {
          recover.mutate();
        }}
      >
        Try again
      </Button>
    </div>
  );
}
