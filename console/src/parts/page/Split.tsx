import { useRef, type ReactNode } from "react";
import { useRemembered } from "./useRemembered";

/** How far a press of an arrow key moves the divider, of the whole height. */
const step = 0.05;

/** How much the upper part has until somebody moves the divider. */
const usual = 0.66;

/** Below and above this the smaller part is shut. */
const least = 0.12;

/**
 * Two parts, one above the other, with a divider that is dragged, or moved by arrow keys; either part can be shut. It
 * remembers where it was.
 */
export function Split({
  name,
  upper,
  lower,
}: {
  name: string;
  upper: [string, ReactNode];
  lower: [string, ReactNode];
}) {
  const [share, setShare] = useRemembered<number>(`split ${name}`, usual);
  const host = useRef<HTMLDivElement>(null);
  const [above, below] = [share > 0, share < 1];
  const set = (wanted: number) => setShare(wanted < least ? 0 : wanted > 1 - least ? 1 : wanted);
  const follow = (event: React.PointerEvent) => {
    const box = host.current?.getBoundingClientRect();
    if (box && event.buttons === 1) set((event.clientY - box.top) / box.height);
  };
  return (
    <div
      className="split"
      ref={host}
      style={{ gridTemplateRows: `minmax(0, ${String(share)}fr) auto minmax(0, ${String(1 - share)}fr)` }}
    >
      {above ? <div className="part">{upper[1]}</div> : <div />}
      <div className="divider">
        <div
          role="separator"
          aria-orientation="horizontal"
          aria-label={`Room for ${upper[0]} and ${lower[0]}`}
          aria-valuenow={Math.round(share * 100)}
          tabIndex={0}
          className="grip"
          onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
          onPointerMove={follow}
          onDoubleClick={() => setShare(usual)}
          onKeyDown={(e) => {
            if (e.key === "ArrowUp") set(share - step);
            else if (e.key === "ArrowDown") set(share + step);
            else return;
            e.preventDefault();
          }}
        />
        <button
          type="button"
          className="linkbutton"
          aria-pressed={!below}
          onClick={() => setShare(below ? 1 : usual)}
          title={below ? `Show ${upper[0]} only` : `Show ${lower[0]} too`}
        >
          {below ? `${upper[0]} only` : `show ${lower[0]}`}
        </button>
        <button
          type="button"
          className="linkbutton"
          aria-pressed={!above}
          onClick={() => setShare(above ? 0 : usual)}
          title={above ? `Show ${lower[0]} only` : `Show ${upper[0]} too`}
        >
          {above ? `${lower[0]} only` : `show ${upper[0]}`}
        </button>
      </div>
      {below ? <div className="part">{lower[1]}</div> : <div />}
    </div>
  );
}
