import { Link } from "@tanstack/react-router";
import type { RunDetail } from "../../core/api/types";
import { brief } from "../../core/format";
import { failedInside, toleratedFailures } from "../../core/runs/iterations";
import { Values } from "../step/Values";
import { CloseButton } from "../page/CloseButton";
import { ContentName } from "./ContentName";

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

/** What a run was given, what it has come to, and what went wrong, while no step is chosen. */
export function RunFacts({ run, close }: { run: RunDetail; close: () => void }) {
  return (
    <section className="panel" aria-label="The run">
      <CloseButton label="Shut the details" close={close} />
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
