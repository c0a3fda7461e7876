import type { CheckResult } from "../../core/checks/checks";
import { marks } from "../../core/states";

const words = { succeeded: "passed", failed: "failed", warned: "warned" } as const;
const signs = { succeeded: marks.succeeded, failed: marks.failed, warned: "△" } as const;

/** What the checks of data came to. */
export function CheckTable({ checks }: { checks: readonly CheckResult[] }) {
  return (
    <table className="values checks" aria-label="Checks">
      <tbody>
        {checks.map((check) => (
          <tr key={check.name}>
            <td>
              <span className="state" data-state={check.state}>
                <span className="mark" aria-hidden>
                  {signs[check.state]}
                </span>
                {words[check.state]}
              </span>
            </td>
            <td>
              <div>{check.name}</div>
              {check.says && <div className="small soft">{check.says}</div>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
