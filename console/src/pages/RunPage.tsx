import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { useNow } from "../app/useNow";
import { momentQuery, momentsQuery } from "../queries/runs";
import { useRun } from "../queries/useRun";
import { getStep } from "../core/api/client";
import type { IterationPage, IterationStatus } from "../core/api/types";
import { inView, stepMeant, type Chosen } from "../core/graph/instances";
import { indexOf } from "../core/runs/moments";
import { withIterations } from "../core/runs/runModel";
import { IterationPicker } from "../parts/canvas/IterationPicker";
import { ChainCanvas } from "../parts/canvas/ChainCanvas";
import type { CanvasView } from "../parts/canvas/CanvasView";
import { Split } from "../parts/page/Split";
import { useRemembered } from "../parts/page/useRemembered";
import { PageTitle, PageWithout } from "../parts/page/Page";
import { RunFacts } from "../parts/run/RunFacts";
import { RunGrid } from "../parts/run/RunGrid";
import { RunNotice } from "../parts/run/RunNotice";
import { RunHead } from "../parts/run/RunHead";
import { TimeBar } from "../parts/run/TimeBar";
import { StepPanel } from "../parts/step/StepPanel";
import { inScope, iterationsOf } from "../core/stepPath";

/** One run: the chain as it runs, its steps in time, and the chosen step. */
export function RunPage() {
  const id = Number(useParams({ from: "/runs/$id" }).id);
  const { step, leg, moment } = useSearch({ from: "/runs/$id" });
  const navigate = useNavigate();
  const { run: current, error: unread } = useRun(id, leg);
  const { data: then, error: noMoment } = useQuery(momentQuery(id, moment));
  const shown = moment === undefined ? current : (then ?? current);
  const error = unread ?? (moment === undefined ? null : (noMoment?.message ?? null));
  const isPast = leg !== undefined || moment !== undefined;
  const [more, setMore] = useState<readonly IterationPage[]>([]);
  const [finding, setFinding] = useState<{ path: string; title: string } | null>(null);
  const run = useMemo(() => shown && withIterations(shown, more), [shown, more]);
  const [picked, setPicked] = useState<Chosen>(new Map());
  const clock = useNow(run !== null && run.ended == null);
  // As it was then: what was at work had been so until that moment, and not until now.
  const { data: moments } = useQuery({
    ...momentsQuery(id, current?.seq ?? 0),
    enabled: moment !== undefined && current !== null,
  });
  const at = moment === undefined || moments === undefined ? undefined : moments[indexOf(moments, moment)]?.at;
  const now = at === undefined ? clock : Date.parse(at);

  // What is beside drawing and timeline can be shut; whoever chooses a step wants to see it.
  const [shut, setShut] = useRemembered<boolean>("run panel shut", false);
  const show = (path: string | undefined) =>
    void navigate({ to: "/runs/$id", params: { id: String(id) }, search: { step: path, leg, moment }, replace: true });
  const choose = (path: string) => {
    setShut(false);
    show(path);
  };
  const unchoose = () => show(undefined);
  const goTo = (next: number | undefined) =>
    void navigate({ to: "/runs/$id", params: { id: String(id) }, search: { step, moment: next }, replace: true });
  const pick = (container: string, index: number) => setPicked((before) => new Map(before).set(container, index));
  // A step of another iteration comes into view when it is chosen.
  const chooseInGrid = (path: string) => {
    for (const { owner, index } of iterationsOf(path)) pick(owner, index);
    choose(path);
  };
  // The step that a gate leads to knows why the gate is as it is.
  const gateWhy: CanvasView["gateWhy"] = async (gate) => {
    const target = run && inView(run, picked).step(inScope(gate.scope, gate.to));
    if (!target) return "The steps around this gate have not begun, so it is undecided.";
    const { why } = await getStep(id, target.path, leg, moment);
    return why.gates.find((g) => g.from === gate.from && g.label === gate.label)?.sentence ?? "It is undecided.";
  };
  const view = useMemo(
    (): CanvasView | null =>
      run
        ? {
            ...inView(run, picked),
            chosen: step === undefined ? null : stepMeant(run.steps, step),
            choose,
            pick,
            open: (run) => void navigate({ to: "/runs/$id", params: { id: String(run) } }),
            find: !isPast ? (path, title) => setFinding({ path, title }) : undefined,
            gateKey: `${String(id)}-${String(leg)}-${String(moment)}-${JSON.stringify([...picked])}`,
            gateWhy,
          }
        : null,
    // eslint-disable-next-line react-hooks/exhaustive-deps -- choose and pick only hand on
    [run, picked, step, id, leg, moment],
  );

  const pickFound = (iteration: IterationStatus, page: IterationPage) => {
    const inside = (path: string) => path === iteration.path || path.startsWith(`${iteration.path}/`);
    const one = {
      ...page,
      iterations: [iteration],
      steps: page.steps.filter((s) => inside(s.path)),
      gates: page.gates.filter((g) => inside(g.scope)),
    };
    setMore((before) => [...before, one]);
    pick(iteration.step, iteration.index);
    const worst = one.steps.find((s) => s.state === "failed") ?? one.steps[0];
    if (worst) choose(worst.path);
    setFinding(null);
  };
  if (error !== null || !run || !view) return <PageWithout title={`Run ${String(id)}`} error={error} />;
  const known = step === undefined ? null : stepMeant(run.steps, step);
  return (
    <div className="run">
      <PageTitle title={`Run ${String(id)}, ${run.state}, ${run.title ?? run.chain}`} />
      <div>
        <RunHead
          run={run}
          now={now}
          leg={leg}
          past={isPast}
          through={moment === undefined ? () => goTo(run.seq) : undefined}
          chosen={known}
          setLeg={(next) => void navigate({ to: "/runs/$id", params: { id: String(id) }, search: { step, leg: next } })}
        />
        {moment !== undefined && current && (
          <TimeBar run={id} last={current.seq} moment={moment} go={goTo} close={() => goTo(undefined)} />
        )}
        <RunNotice run={run} now={now} past={isPast} choose={chooseInGrid} />
      </div>
      <div className="runbody" data-shut={shut}>
        <div className="runleft">
          <Split
            name="run"
            upper={["drawing", <ChainCanvas key="drawing" graph={run.graph} view={view} />]}
            lower={["timeline", <RunGrid key="timeline" run={run} now={now} chosen={known} choose={chooseInGrid} />]}
          />
        </div>
        {shut ? (
          <button type="button" className="unshut" onClick={() => setShut(false)}>
            Details
          </button>
        ) : known !== null ? (
          <StepPanel run={run} path={known} leg={leg} moment={moment} now={now} close={unchoose} />
        ) : (
          <RunFacts run={run} close={() => setShut(true)} />
        )}
      </div>
      {finding && (
        <IterationPicker
          run={id}
          path={finding.path}
          title={finding.title}
          version={String(run.seq)}
          pick={pickFound}
          close={() => setFinding(null)}
        />
      )}
    </div>
  );
}
