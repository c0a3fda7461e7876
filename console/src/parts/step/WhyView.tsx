import type { PartInfo, WhyInfo } from "../../core/api/types";
import { GateMark } from "../canvas/GateMark";

/** Why a step fared as it did: its gates, branches and warnings. */
export function WhyView({ why }: { why: WhyInfo }) {
  return (
    <div data-testid="why">
      <p>{why.sentence}</p>
      {why.gates.map((gate, i) => (
        <div className="whygate" key={i}>
          <GateMark state={gate.state} inError={gate.error != null} size={22} />
          <div>
            {gate.sentence}
            <Parts parts={gate.parts} />
          </div>
        </div>
      ))}
      {why.guard && (
        <div className="whygate">
          <span aria-hidden="true">◇</span>
          <div>
            Guard, look {why.guard.look}: {why.guard.verdict}
            {why.guard.message != null && ` (${why.guard.message})`}
            {why.guard.by != null && why.guard.verdict !== "proceed" && `; ${why.guard.by} asked for this look`}.
            <Parts parts={why.guard.parts} />
          </div>
        </div>
      )}
      {why.branches.map((branch) => (
        <div className="whygate" key={branch.name}>
          <span aria-hidden="true">{branch.taken ? "➜" : "·"}</span>
          <div>
            Branch “{branch.name}” {branch.taken ? "holds and was taken." : "does not hold."}
            <Parts parts={branch.parts} />
          </div>
        </div>
      ))}
      {why.warnings.map((warning, i) => (
        <p key={i}>⚠ {warning}</p>
      ))}
    </div>
  );
}

function Parts({ parts }: { parts: PartInfo[] }) {
  if (parts.length === 0) return null;
  return (
    <ul className="parts">
      {parts.map((part, i) => (
        <li key={i}>
          <code>{part.text}</code>
          <code>{part.value ?? "not looked at"}</code>
        </li>
      ))}
    </ul>
  );
}
