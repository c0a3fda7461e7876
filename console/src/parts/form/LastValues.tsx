import type { ParameterInfo } from "../../core/api/types";
import type { Given } from "../../core/values/typed";

/** Offers the values that were given last, where they are others. */
export function LastValues({
  params,
  given,
  last,
  take,
}: {
  params: readonly ParameterInfo[];
  given: Given;
  last: Given;
  take: (given: Given) => void;
}) {
  const others = params.filter((p) => last[p.name] !== undefined && last[p.name] !== given[p.name]);
  if (others.length === 0) return null;
  return (
    <p className="small soft">
      Last time: {others.map((p) => `${p.name} = ${last[p.name] ?? ""}`).join(", ")}.{" "}
      <button
        type="button"
        className="linkbutton"
        onClick={() => take({ ...given, ...Object.fromEntries(others.map((p) => [p.name, last[p.name] ?? ""])) })}
      >
        Take these
      </button>
    </p>
  );
}
