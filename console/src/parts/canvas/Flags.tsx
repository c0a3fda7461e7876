import { useEditView } from "./EditView";

const problemSigns = { error: "⨯", warning: "△", hint: "◌" };

/** That something is wrong with a step, that a try pauses before it, or how it differs from another version. */
export function Flags({ address }: { address: string }) {
  const edit = useEditView();
  const problem = edit?.problems.get(address);
  const change = edit?.changes.get(address);
  const pauses = edit?.pauses.has(address) === true;
  if (!pauses && change === undefined && !problem) return null;
  return (
    <span className="flags">
      {pauses && (
        <span className="flag" title="The try pauses before this step">
          ‖
        </span>
      )}
      {change !== undefined && (
        <span className="flag" data-change={change}>
          {change}
        </span>
      )}
      {problem && (
        <span
          className="flag"
          data-problem={problem}
          role="img"
          aria-label={`has an ${problem}`}
          title={`It has ${problem === "error" ? "an error" : `a ${problem}`}; see Problems`}
        >
          {problemSigns[problem]}
        </span>
      )}
    </span>
  );
}
