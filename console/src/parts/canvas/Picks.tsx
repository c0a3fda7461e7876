import { IconChevronDown } from "@tabler/icons-react";
import { countStates, iterationsToOffer } from "../../core/runs/iterations";
import { StateMark } from "../run/StateMark";
import { useCanvasView } from "./CanvasView";

/** How many iterations a container shows by name; of more it tells how they fared, and offers to look for one. */
const MOST = 8;

/** The iterations of a container, of which one is in view; none where there are fewer than `atLeast`. */
export function Picks({
  address,
  title,
  hidden = 0,
  atLeast = 1,
}: {
  address: string;
  title: string;
  /** How many more there are that the page has not. */
  hidden?: number;
  atLeast?: number;
}) {
  const view = useCanvasView();
  const iterations = view?.iterations(address);
  if (!iterations || iterations.all.length < atLeast) return null;
  const { all, shown, path } = iterations;
  const isMany = all.length + hidden > MOST && view?.find !== undefined;
  const offered = isMany ? all.filter((i) => i.index === shown) : iterationsToOffer(all, shown, MOST);
  const left = all.length + hidden - offered.length;
  return (
    <div className="picks nodrag" role="group" aria-label={`Iterations of ${title}`}>
      {isMany && (
        <span className="counts">
          {countStates(all).map(({ state, count }) => (
            <span key={state} data-state={state}>
              {count.toLocaleString("en")} <StateMark state={state} short />
            </span>
          ))}
          {hidden > 0 && <span>and {hidden.toLocaleString("en")} more</span>}
        </span>
      )}
      {offered.map((iteration) => (
        <button
          key={iteration.path}
          type="button"
          data-state={iteration.state}
          aria-pressed={iteration.index === shown}
          onClick={(event) => {
            event.stopPropagation();
            if (isMany) view.find?.(path, title);
            else view?.pick(path, iteration.index);
          }}
        >
          <StateMark state={iteration.state} short /> {iteration.item}
          {isMany && <IconChevronDown size={13} aria-hidden />}
        </button>
      ))}
      {left > 0 && !isMany && <span className="soft">and {left.toLocaleString("en")} more</span>}
    </div>
  );
}
