import { NativeSelect } from "@mantine/core";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { useNow } from "../app/useNow";
import { useRun } from "../queries/useRun";
import { getStep } from "../core/api/client";
import type { IterationPage, IterationStatus, RunDetail } from "../core/api/types";
import { between, brief, clock } from "../core/format";
import { inView, type Chosen } from "../core/graph/instances";
import { withIterations } from "../core/runs/runModel";
import { IterationPicker } from "../parts/canvas/IterationPicker";
import { ChainCanvas } from "../parts/canvas/ChainCanvas";
import type { CanvasView } from "../parts/canvas/CanvasView";
import { ContentName } from "../parts/run/ContentName";
import { PageTitle, PageWithout } from "../parts/page/Page";
import { RunButtons } from "../parts/run/RunButtons";
import { RunGrid } from "../parts/run/RunGrid";
import { RunNotice } from "../parts/run/RunNotice";
import { StateMark } from "../parts/run/StateMark";
import { StepPanel } from "../parts/step/StepPanel";
import { Values } from "../parts/step/Values";
import { inScope, iterationsOf } from "../core/stepPath";
import { failedInside, toleratedFailures } from "../core/runs/iterations";

/** One run: the chain as it runs, its steps in time, and the chosen step. */
export function RunPage() {
  const id = Number(useParams({ from: "/runs/$id" }).id);
  const { step, leg } = useSearch({ from: "/runs/$id" });
  const navigate = useNavigate();
  const { run: shown, error } = useRun(id, leg);
  const [more, setMore] = useState<readonly IterationPage[]>([]);
  const [finding, setFinding] = useState<{ path: string; title: string } | null>(null);
  const run = useMemo(() => shown && withIterations(shown, more), [shown, more]);
  const [picked, setPicked] = useState<Chosen>(new Map());
  const now = useNow(run !== null && run.ended == null);

  const choose = (path: string) =>
    void navigate({ to: "/runs/$id", params: { id: String(id) }, search: { step: path, leg }, replace: true });
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
    const { why } = await getStep(id, target.path, leg);
    return why.gates.find((g) => g.from === gate.from && g.label === gate.label)?.sentence ?? "It is undecided.";
  };
  const view = useMemo(
    (): CanvasView | null =>
      run
        ? {
            ...inView(run, picked),
            chosen: step ?? null,
            choose,
            pick,
            find: leg === undefined ? (path, title) => setFinding({ path, title }) : undefined,
            gateKey: `${String(id)}-${String(leg)}-${JSON.stringify([...picked])}`,
            gateWhy,
          }
        : null,
    // eslint-disable-next-line react-hooks/exhaustive-deps -- choose and pick only hand on
    [run, picked, step, id, leg],
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
  const known = step !== undefined && run.steps.some((s) => s.path === step) ? step : null;
  return (
    <div className="run">
      <PageTitle title={`Run ${String(id)}, ${run.state}, ${run.title ?? run.chain}`} />
      <div>
        <RunHead
          run={run}
          now={now}
          leg={leg}
          chosen={known}
          setLeg={(next) => void navigate({ to: "/runs/$id", params: { id: String(id) }, search: { step, leg: next } })}
        />
        <RunNotice run={run} now={now} past={leg !== undefined} choose={chooseInGrid} />
      </div>
      <div className="runbody">
        <div className="runleft">
          <ChainCanvas graph={run.graph} view={view} />
          <RunGrid run={run} now={now} chosen={known} choose={chooseInGrid} />
        </div>
        {known !== null ? <StepPanel run={run} path={known} leg={leg} now={now} /> : <RunFacts run={run} />}
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

function RunHead({
  run,
  now,
  leg,
  chosen,
  setLeg,
}: {
  run: RunDetail;
  now: number;
  leg: number | undefined;
  chosen: string | null;
  setLeg: (leg: number | undefined) => void;
}) {
  const last = run.resumes.at(-1)?.leg ?? 1;
  const legs = Math.max(last, run.leg);
  const past = leg !== undefined;
  const tolerated = toleratedFailures(run).length;
  return (
    <div className="runhead">
      <h1>Run {run.id}</h1>
      <Link to="/chains/$name" params={{ name: run.chain }}>
        {run.title ?? run.chain}
      </Link>
      <StateMark state={run.state} />
      {run.status.late && <span className="late">⧗ late</span>}
      {tolerated > 0 && (
        <span className="warned small">
          △ {tolerated === 1 ? "1 failure" : `${String(tolerated)} failures`} tolerated
        </span>
      )}
      <span className="soft small">
        {run.fire && (
          <>
            started by trigger{" "}
            <Link to="/triggers" search={{ name: run.fire.trigger }}>
              {run.fire.trigger}
            </Link>
            ,{" "}
          </>
        )}
        {run.parent && (
          <>
            called by{" "}
            <Link to="/runs/$id" params={{ id: String(run.parent.run) }} search={{ step: run.parent.step }}>
              run {run.parent.run}, {run.parent.step}
            </Link>
            ,{" "}
          </>
        )}
        {run.restartOf != null && (
          <>
            as{" "}
            <Link to="/runs/$id" params={{ id: String(run.restartOf) }}>
              run {run.restartOf}
            </Link>{" "}
            was,{" "}
          </>
        )}
        {!run.fire && `by ${run.by}, `}
        {clock(run.started, now)}, {between(run.started, run.ended, now)}
      </span>
      <div className="rest">
        {(legs > 1 || past) && (
          <NativeSelect
            size="xs"
            aria-label="Leg"
            value={String(leg ?? "")}
            onChange={(e) => setLeg(e.currentTarget.value === "" ? undefined : Number(e.currentTarget.value))}
            data={[
              { value: "", label: past ? "as it is now" : `leg ${String(legs)}, as it is now` },
              ...Array.from({ length: past ? Math.max(leg, legs) : legs - 1 }, (_, i) => ({
                value: String(i + 1),
                label: `when leg ${String(i + 1)} ended`,
              })),
            ]}
          />
        )}
        {!past && <RunButtons run={run} chosen={chosen} />}
      </div>
    </div>
  );
}

const mostTolerated = 20;

/** Failures that did not count against the run, each a way to its steps. */
function Tolerated({ run }: { run: RunDetail }) {
  const all = toleratedFailures(run);
  if (all.length === 0) return null;
  return (
    <>
      <h2 className="fact">Tolerated failures</h2>
      {all.slice(0, mostTolerated).map(({ path, what }) => (
        <p key={path}>
          <Link to="/runs/$id" params={{ id: String(run.id) }} search={{ step: failedInside(run, path) }} replace>
            {path}
          </Link>{" "}
          <span className="soft small">{brief(what, 80)}</span>
        </p>
      ))}
      {all.length > mostTolerated && <p className="soft small">and {all.length - mostTolerated} more</p>}
    </>
  );
}

function RunFacts({ run }: { run: RunDetail }) {
  return (
    <section className="panel" aria-label="The run">
      <p className="soft">Choose a step to see why it ran or did not, what went in and out, and its log.</p>
      <p className="soft small">
        It follows <ContentName number={run.number} release={run.release} />.
      </p>
      {run.failures.length > 0 && (
        <>
          <h2 className="fact">Failed</h2>
          {run.failures.slice(0, 8).map((path) => (
            <p key={path}>
              <Link to="/runs/$id" params={{ id: String(run.id) }} search={{ step: path }} replace>
                {path}
              </Link>
            </p>
          ))}
        </>
      )}
      <Tolerated run={run} />
      {run.fire && (
        <>
          <h2 className="fact">
            Event of{" "}
            <Link to="/triggers" search={{ name: run.fire.trigger }}>
              {run.fire.trigger}
            </Link>
          </h2>
          <Values value={run.fire.event} empty="It says nothing." />
        </>
      )}
      <h2 className="fact">Parameters</h2>
      <Values value={run.params} empty="It takes none." />
      <h2 className="fact">Variables</h2>
      <Values value={run.vars} empty="It has none." />
      <h2 className="fact">Outputs</h2>
      <Values value={run.outputs} empty={run.ended == null ? "They come at the end." : "It gave none."} />
      {run.resumes.map((resume) => (
        <div key={resume.leg}>
          <h2 className="fact">
            Leg {resume.leg}, {resume.automatic ? "resumed automatically" : `resumed by ${resume.by}`}
          </h2>
          {resume.release != null && (
            <p className="small">
              It moved to <ContentName number={resume.number} release={resume.release} />
            </p>
          )}
          {resume.redone.length > 0 && (
            <p className="small">
              Repeated: <code>{brief(resume.redone.join(", "), 300)}</code>
            </p>
          )}
          {resume.goesOn.length > 0 && (
            <p className="small">
              Continued inside: <code>{brief(resume.goesOn.join(", "), 300)}</code>
            </p>
          )}
        </div>
      ))}
      {run.warnings.map((warning, i) => (
        <p key={i}>⚠ {warning}</p>
      ))}
    </section>
  );
}
