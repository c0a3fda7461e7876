import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useMemo } from "react";
import { titlesOf } from "../core/graph/titles";
import { findings } from "../core/history/findings";
import { Findings } from "../parts/history/Findings";
import { OutcomeGrid } from "../parts/history/OutcomeGrid";
import { TimeShares } from "../parts/history/TimeShares";
import { EmptyState } from "../parts/page/EmptyState";
import { Page, PageWithout } from "../parts/page/Page";
import { chainQuery } from "../queries/chains";
import { historyQuery } from "../queries/history";

const Charts = lazy(() => import("../parts/history/Charts"));

const usual = 60;
const most = 500;

/** One chain over its runs: steps by runs, how long they took, where the time went, what is not as it was. */
export function HistoryPage() {
  const { name } = useParams({ from: "/chains/$name/history" });
  const { step, most: wanted = usual } = useSearch({ from: "/chains/$name/history" });
  const navigate = useNavigate();
  const { data, error } = useQuery(historyQuery(name, Math.min(wanted, most), false));
  const chain = useQuery(chainQuery(name));
  const titles = useMemo(() => titlesOf(chain.data?.graph), [chain.data]);
  const found = useMemo(() => (data ? findings(data) : []), [data]);
  const title = chain.data?.title ?? name;
  if (!data) return <PageWithout title={`History of ${title}`} error={error} />;
  const choose = (address: string | undefined) =>
    void navigate({
      to: "/chains/$name/history",
      params: { name },
      search: (all) => ({ ...all, step: address === step ? undefined : address }),
      replace: true,
    });
  const called = (address: string) => (address === "" ? "the whole chain" : (titles.get(address) ?? address));
  return (
    <Page
      title={`History of ${title}`}
      error={error}
      className="history"
      facts={
        <span className="soft small">
          {data.legs.length === 0
            ? ""
            : `its last ${String(data.legs.length)} runs that have ended; those of drafts are left out`}
        </span>
      }
      actions={
        <>
          <Link className="small" to="/chains/$name" params={{ name }}>
            The chain
          </Link>
          <Link className="small" to="/runs" search={{ chain: name }}>
            Its runs
          </Link>
          {data.legs.length >= wanted && wanted < most && (
            <Button
              size="xs"
              variant="default"
              onClick={() =>
                void navigate({
                  to: "/chains/$name/history",
                  params: { name },
                  search: (all) => ({ ...all, most: Math.min(most, wanted * 3) }),
                })
              }
            >
              More runs
            </Button>
          )}
        </>
      }
    >
      {data.legs.length === 0 ? (
        <EmptyState>None of its runs has ended yet.</EmptyState>
      ) : (
        <>
          <Findings found={found} called={called} choose={choose} />
          <OutcomeGrid history={data} titles={titles} chosen={step} choose={choose} />
          <h2>
            {step === undefined ? "The whole chain" : called(step)}
            {step !== undefined && (
              <button type="button" className="linkbutton" onClick={() => choose(undefined)}>
                the whole chain
              </button>
            )}
          </h2>
          <Suspense fallback={<div className="sheet charts" aria-busy="true" />}>
            <Charts legs={data.legs} step={step} />
          </Suspense>
          <h2>Where the time goes</h2>
          <TimeShares history={data} titles={titles} />
        </>
      )}
    </Page>
  );
}
