import { ActionIcon, NativeSelect, Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import type { PartChangeInfo, ProblemInfo } from "../../../core/api/types";
import type { DesignState } from "../../../core/designer/DesignStore";
import { ProblemsPanel } from "./ProblemsPanel";
import { useDesigning } from "../useDesign";
import type { Modes } from "../useModes";
import { VersionsPanel } from "./VersionsPanel";
import { recentRunsQuery } from "../../../queries/runs";

const SourceEditor = lazy(() => import("./SourceEditor"));

/** What stands below the canvas: problems, the source, versions, and what happens in a rehearsal. */
export function LowerTabs({
  state,
  modes: { tab, chooseTab, trace },
  low,
  setLow,
  goTo,
  lead,
  showChanges,
}: {
  state: DesignState;
  modes: Modes;
  low: boolean;
  setLow: (low: boolean) => void;
  goTo: (problem: ProblemInfo) => void;
  /** Where the source editor is led to. */
  lead: { offset: number; count: number } | null;
  showChanges: (changes: PartChangeInfo[] | null) => void;
}) {
  const { store, pastRun, setPastRun } = useDesigning();
  const { data: runs } = useQuery(recentRunsQuery(store.chain));
  const hints = state.problems.filter((p) => p.severity === "hint").length;
  const real = state.problems.length - hints;
  const errors = state.problems.filter((p) => p.severity === "error").length;
  return (
    <Tabs
      className="lower"
      value={low ? null : tab}
      onChange={(t) => {
        if (t !== null) {
          chooseTab(t);
          setLow(false);
        }
      }}
      keepMounted={false}
    >
      <div className="lowerhead">
        <Tabs.List>
          <Tabs.Tab value="problems" data-errors={errors > 0}>
            Problems {real > 0 && <span className="count">{real}</span>}
            {hints > 0 && <span className="soft small"> {hints === 1 ? "1 hint" : `${String(hints)} hints`}</span>}
          </Tabs.Tab>
          <Tabs.Tab value="source">Source</Tabs.Tab>
          <Tabs.Tab value="versions">Versions</Tabs.Tab>
          {trace !== null && <Tabs.Tab value="trace">What happens</Tabs.Tab>}
        </Tabs.List>
        <div className="tabsrest">
          <NativeSelect
            size="xs"
            aria-label="Show values of expressions with the data of"
            value={pastRun === null ? "" : String(pastRun)}
            onChange={(e) => setPastRun(e.currentTarget.value === "" ? null : Number(e.currentTarget.value))}
            data={[
              { value: "", label: "values: of no run" },
              ...(runs ?? []).map((r) => ({
                value: String(r.id),
                label: `values: of run ${String(r.id)} (${r.state})`,
              })),
            ]}
          />
          <ActionIcon
            variant="subtle"
            aria-label={low ? "Show the lower part" : "Hide the lower part"}
            onClick={() => setLow(!low)}
          >
            {low ? "▴" : "▾"}
          </ActionIcon>
        </div>
      </div>
      <Tabs.Panel value="problems">
        <ProblemsPanel state={state} goTo={goTo} />
      </Tabs.Panel>
      <Tabs.Panel value="source">
        <Suspense>
          <SourceEditor lead={lead} />
        </Suspense>
      </Tabs.Panel>
      <Tabs.Panel value="versions">
        <VersionsPanel shown={showChanges} />
      </Tabs.Panel>
      {trace !== null && <Tabs.Panel value="trace">{trace}</Tabs.Panel>}
    </Tabs>
  );
}
