import { iterationsToOffer } from "../../core/runs/iterations";
import { StateMark } from "../run/StateMark";
import { useCanvasView } from "./CanvasView";

/** How many iterations a container offers to look at. */
const MOST = 40;

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
  const offered = iterationsToOffer(iterations.all, iterations.shown, MOST);
  const left = iterations.all.length + hidden - offered.length;
  return (
    <div className="picks nodrag" role="group" aria-label={`Iterations of ${title}`}>
      {offered.map((iteration) => (
        <button
          key={iteration.path}
          type="button"
          data-state={iteration.state}
          aria-pressed={iteration.index === iterations.shown}
          onClick={(event) => {
            event.stopPropagation();
            view?.pick(iterations.path, iteration.index);
          }}
        >
          <StateMark state={iteration.state} short /> {iteration.item}
        </button>
      ))}
      {left > 0 && view?.find && (
        <button
          type="button"
          className="more"
          onClick={(event) => {
            event.stopPropagation();
            view.find?.(iterations.path, title);
          }}
        >
          {left.toLocaleString("en")} more…
        </button>
      )}
      {left > 0 && !view?.find && <span className="soft">and {left.toLocaleString("en")} more</span>}
    </div>
  );
}
