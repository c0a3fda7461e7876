import type { ExpectedInfo } from "../../core/api/types";
import { clock } from "../../core/format";

/** When a run will end, as earlier ones did. */
export function Expected({ expected, now }: { expected: ExpectedInfo; now: number }) {
  const [likely, early, late] = [expected.likely, expected.early, expected.late].map((t) => clock(t, now));
  const soon = Date.parse(expected.likely) <= now;
  return (
    <span className="soft small" title={`By the last ${String(expected.runs)} runs that succeeded`}>
      {soon ? "ends any moment, by earlier runs" : `ends about ${likely ?? ""} (${early ?? ""} to ${late ?? ""})`}
    </span>
  );
}
