import { Allowed } from "../parts/access/Allowed";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useState } from "react";
import { clock } from "../core/format";
import { ChainCanvas } from "../parts/canvas/ChainCanvas";
import { RetireButton, RetiredNotice } from "../parts/chains/Retirement";
import { PageTitle, PageWithout } from "../parts/page/Page";
import { RehearsalView } from "../parts/rehearsal/RehearsalView";
import { StartDialog } from "../parts/run/StartDialog";
import { KeptDialog } from "../parts/triggers/KeptDialog";
import { chainQuery, keptValuesQuery, usesQuery } from "../queries/chains";
import { triggersOfQuery } from "../queries/triggers";

const SourceView = lazy(() => import("../parts/chains/SourceView"));

/** One chain: drawn from its file, and the file itself. */
export function ChainPage() {
  const { name } = useParams({ from: "/chains/$name" });
  const { data, error } = useQuery(chainQuery(name));
  const navigate = useNavigate();
  // Also from elsewhere: by its address.
  const asked = useSearch({ from: "/chains/$name" }).do === "start";
  const [starting, setStarting] = useState(false);
  const [rehearsing, setRehearsing] = useState(false);
  if (error || !data) return <PageWithout title={name} error={error} />;
  return (
    <div className="chainpage">
      <PageTitle title={data.title ?? data.name} />
      <div className="runhead">
        <h1>{data.title ?? data.name}</h1>
        <span className="soft mono">{data.name}</span>
        <span className="soft small">
          release {data.number} <code>{data.release.slice(0, 8)}</code>, {clock(data.pushed)}
        </span>
        <ItsTriggers chain={data.name} />
        <ItsCallers chain={data.name} />
        <div className="rest">
          <Link to="/runs" search={{ chain: data.name }} className="small">
            Its runs
          </Link>
          <Link to="/chains/$name/history" params={{ name: data.name }} className="small">
            History
          </Link>
          <ItsKept chain={data.name} />
          <Allowed permission="design" folder={data.area}>
            {!data.retired && <RetireButton chain={data.name} />}
            <Button
              size="xs"
              variant="default"
              renderRoot={(props) => <Link to="/chains/$name/design" params={{ name: data.name }} {...props} />}
            >
              Design
            </Button>
            <Button size="xs" variant="default" aria-pressed={rehearsing} onClick={() => setRehearsing(!rehearsing)}>
              {rehearsing ? "End rehearsal" : "Rehearse"}
            </Button>
          </Allowed>
          <Allowed permission="operate" folder={data.area} tell>
            <Button size="xs" disabled={Boolean(data.retired)} onClick={() => setStarting(true)}>
              Run…
            </Button>
          </Allowed>
        </div>
      </div>
      <RetiredNotice chain={data} />
      {rehearsing ? (
        <RehearsalView key={data.release} chain={data} />
      ) : (
        <div className="chainbody">
          <ChainCanvas graph={data.graph} view={null} />
          <div className="source">
            <Suspense>
              <SourceView text={data.source} />
            </Suspense>
          </div>
        </div>
      )}
      {(starting || asked) && !data.retired && (
        <StartDialog
          chain={data}
          close={() => {
            setStarting(false);
            if (asked) void navigate({ to: "/chains/$name", params: { name }, search: {}, replace: true });
          }}
        />
      )}
    </div>
  );
}

/** What the chain keeps from run to run, behind a button; nothing for a chain that keeps nothing. */
function ItsKept({ chain }: { chain: string }) {
  const kept = useQuery(keptValuesQuery(chain));
  const [open, setOpen] = useState(false);
  if (!kept.data || kept.data.length === 0) return null;
  return (
    <>
      <Button size="xs" variant="default" onClick={() => setOpen(true)}>
        Kept values
      </Button>
      {open && <KeptDialog chain={chain} kept={kept.data} close={() => setOpen(false)} />}
    </>
  );
}

/** The steps of other chains that call it. */
function ItsCallers({ chain }: { chain: string }) {
  const { data } = useQuery(usesQuery(chain));
  const calls = (data ?? []).filter((u) => u.chain !== null);
  if (calls.length === 0) return null;
  return (
    <span className="small soft">
      called by{" "}
      {calls.slice(0, 5).map((use, i) => (
        <span key={`${use.chain ?? ""}/${use.step ?? ""}`}>
          {i > 0 && ", "}
          <Link
            to="/chains/$name/design"
            params={{ name: use.chain ?? "" }}
            search={{ step: use.step ?? undefined }}
            title={`its step ${use.step ?? ""}`}
          >
            {use.chain}
          </Link>
        </span>
      ))}
      {calls.length > 5 && ` and ${String(calls.length - 5)} more`}
    </span>
  );
}

/** What starts the chain by itself, a word each. */
function ItsTriggers({ chain }: { chain: string }) {
  const triggers = useQuery(triggersOfQuery(chain));
  if (!triggers.data || triggers.data.length === 0) return null;
  return (
    <span className="small">
      {triggers.data.map((t) => (
        <Link key={t.name} to="/triggers" search={{ name: t.name }} title={t.sentence}>
          ⤿ {t.name}
          {t.on ? "" : " (off)"}{" "}
        </Link>
      ))}
    </span>
  );
}
