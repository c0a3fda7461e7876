import { Allowed } from "../access/Allowed";
import { Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { RunDetail, StepDetail, StepStatus } from "../../core/api/types";
import { between, clock } from "../../core/format";
import { StateMark } from "../run/StateMark";
import { holdsOthers } from "../../core/runs/runModel";
import { checksOf } from "../../core/checks/checks";
import { AnswerButtons } from "./AnswerButtons";
import { CancelStep } from "./CancelStep";
import { CheckTable } from "./CheckTable";
import { HoldButtons } from "./HoldButtons";
import { LogView } from "./LogView";
import { Values } from "./Values";
import { PathTrail } from "./PathTrail";
import { Progress } from "./Progress";
import { WhyView } from "./WhyView";
import { stepQuery } from "../../queries/runs";
import { CloseButton } from "../page/CloseButton";
import { ErrorBox } from "../page/ErrorBox";

/** What can be cancelled. */
const atWork = new Set(["held", "queued", "resting", "running"]);

/** Everything about the chosen step of a run. */
export function StepPanel({
  run,
  path,
  leg,
  moment,
  now,
  close,
}: {
  run: RunDetail;
  path: string;
  leg: number | undefined;
  /** As it was behind a decision; undefined for now. */
  moment?: number;
  now: number;
  /** Chooses no step any more; absent where it stands below other things. */
  close?: () => void;
}) {
  const status = run.steps.find((s) => s.path === path);
  const past = leg !== undefined || moment !== undefined;
  // Asked again whenever the step has changed, not with every change of the run.
  const version = status
    ? `${status.state}-${String(status.attempt)}-${String(status.leg)}-${String(status.hold?.looks)}-${String(status.hold?.next)}`
    : "";
  const undecided = run.gates.filter((g) => g.state === "undecided").length;
  const { data, error } = useQuery(stepQuery(run.id, path, leg, moment, `${version}-${String(undecided)}`));
  if (error) return <div className="panel">{error.message}</div>;
  if (!data) return <div className="panel" aria-busy="true" />;
  const checks = data.kind === "check" ? checksOf(data.outputs) : [];
  return (
    <section className="panel" aria-label="Chosen step">
      {close && <CloseButton label="Back to the run" close={close} />}
      <h2>{data.title}</h2>
      <div className="small soft" style={{ display: "flex", gap: 10, flexWrap: "wrap" }}>
        <StateMark state={status?.state ?? data.status.state} />
        <span>{data.kind}</span>
        <PathTrail run={run.id} path={path} />
      </div>
      {data.error && (
        <ErrorBox error={data.error.message}>{data.error.detail && <pre>{data.error.detail}</pre>}</ErrorBox>
      )}
      <Threshold status={status ?? data.status} now={now} />
      {status?.state === "running" && !past && <Progress run={run.id} path={path} />}
      {!past && <Deciding run={run} path={path} kind={data.kind} status={status ?? data.status} />}
      {checks.length > 0 && <CheckTable checks={checks} />}
      <Tabs defaultValue="why" mt="sm" keepMounted={false}>
        <Tabs.List>
          <Tabs.Tab value="why">Why</Tabs.Tab>
          <Tabs.Tab value="data">In and out</Tabs.Tab>
          <Tabs.Tab value="log">Log</Tabs.Tab>
          <Tabs.Tab value="attempts">Attempts</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="why" pt="xs">
          <WhyView why={data.why} />
        </Tabs.Panel>
        <Tabs.Panel value="data" pt="xs">
          <h3>Inputs</h3>
          <Values value={data.inputs} empty="It has no settings, or has not started." />
          <h3>Outputs</h3>
          <Values value={data.outputs} empty="It has given nothing." />
        </Tabs.Panel>
        <Tabs.Panel value="log" pt="xs">
          <LogView
            run={run.id}
            path={path}
            attempts={data.attempts}
            live={status?.state === "running"}
            atEnd={status?.state === "running" || status?.state === "failed"}
          />
        </Tabs.Panel>
        <Tabs.Panel value="attempts" pt="xs">
          <Attempts step={data} now={now} />
        </Tabs.Panel>
      </Tabs>
    </section>
  );
}

/** What a person can decide about it as it stands. */
function Deciding({ run, path, kind, status }: { run: RunDetail; path: string; kind: string; status: StepStatus }) {
  const { state } = status;
  if (state !== "paused" && !atWork.has(state)) return null;
  return (
    <div className="stepbuttons">
      <Allowed permission="operate" folder={run.area}>
        {state === "paused" && <AnswerButtons run={run.id} path={path} kind={kind} holds={holdsOthers(run, path)} />}
        {state === "held" && <HoldButtons run={run.id} path={path} looking={status.hold?.next == null} />}
      </Allowed>
      {atWork.has(state) && <CancelStep run={run} path={path} kind={kind} />}
    </div>
  );
}

/** What a step is held or queued for, and the run that works for it. */
function Threshold({ status, now }: { status: StepStatus; now: number }) {
  const { hold, child, lane } = status;
  return (
    <>
      {status.state === "held" && hold && (
        <p className="hold">
          ◇ {hold.message ?? "Its guard holds it"}. Held for {between(hold.since, null, now)}, looked{" "}
          {hold.looks === 1 ? "once" : `${String(hold.looks)} times`}
          {hold.next != null ? `, looks again at ${clock(hold.next, now)}` : ", looking now"}.
        </p>
      )}
      {status.state === "queued" && (
        <p className="hold">
          ≡ It waits for its turn in the lane <Link to="/lanes">{lane}</Link>.
        </p>
      )}
      {child != null && (
        <p className="small">
          Its work is{" "}
          <Link to="/runs/$id" params={{ id: String(child) }}>
            run {child}
          </Link>
          .
        </p>
      )}
      {status.answered != null && <p className="small soft">While it had paused the run: {status.answered}.</p>}
    </>
  );
}

function Attempts({ step, now }: { step: StepDetail; now: number }) {
  if (step.attempts.length === 0) return <p className="soft">It has not been attempted.</p>;
  return (
    <table className="values">
      <tbody>
        {step.attempts.map((attempt) => (
          <tr key={attempt.number}>
            <td>
              leg {attempt.leg}, attempt {attempt.attempt}
            </td>
            <td>
              <StateMark state={attempt.result} />{" "}
              <span className="soft">
                {clock(attempt.started, now)}, {between(attempt.started, attempt.ended, now)}
              </span>
              {attempt.error && <div>{attempt.error.message}</div>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
