import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { LogLine } from "../../core/runs/logLines";
import type { LogPart } from "../../core/runs/logWindow";
import type { Log } from "../../queries/useLog";

/** How near to an edge the next part is read, in pixels. */
const margin = 400;

/** How near to the end counts as being there, in pixels. */
const endMargin = 24;

/** The height of a line that is not wrapped, in pixels; `.logpage` has the same. */
const lineHeight = 18;

/** The stretch of a log that is at hand. Scrolling to its edges reads on; what is in view stays where it is. */
export function LogText({
  log,
  wrap,
  marked,
  follow,
  isAtEnd,
}: {
  log: Log;
  wrap: boolean;
  /** Where the line begins that was searched for, in bytes. */
  marked: number | null;
  follow: boolean;
  /** Called when the person scrolls to the end, or away from it. */
  isAtEnd: (is: boolean) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const { parts } = log.window;
  // A part that is in view, and where it stands: there it is put again when others come and go.
  const anchor = useRef<{ part: Element; top: number } | null>(null);
  const top = (part: Element) => part.getBoundingClientRect().top - (box.current?.getBoundingClientRect().top ?? 0);
  const remember = () => {
    const part = [...(box.current?.children ?? [])].find((c) => top(c) + c.clientHeight > 0);
    anchor.current = part ? { part, top: top(part) } : null;
  };
  const readOn = () => {
    const { scrollTop = 0, scrollHeight = 0, clientHeight = 0 } = box.current ?? {};
    if (scrollTop < margin) log.readBefore();
    else if (scrollHeight - scrollTop - clientHeight < margin) log.readAfter();
  };

  useLayoutEffect(() => {
    const host = box.current;
    if (!host) return;
    const stays = anchor.current?.part.isConnected ? anchor.current : null;
    if (follow) host.scrollTop = host.scrollHeight;
    else if (stays) host.scrollTop += top(stays.part) - stays.top;
    else host.scrollTop = log.window.atEnd ? host.scrollHeight : 0;
    remember();
    readOn();
    // What else it reads does not change what is drawn.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [parts, follow]);

  return (
    <div
      className={wrap ? "log wrapped" : "log"}
      ref={box}
      tabIndex={0}
      role="log"
      aria-label="Log"
      onScroll={() => {
        const { scrollTop = 0, scrollHeight = 0, clientHeight = 0 } = box.current ?? {};
        isAtEnd(scrollHeight - scrollTop - clientHeight < endMargin);
        remember();
        readOn();
      }}
    >
      {parts.map((part) => (
        <Part key={part.from} part={part} marked={part.from === marked} wrap={wrap} />
      ))}
    </div>
  );
}

/** Some lines. They are drawn while they are near the part that is in view; out of it they only take their room. */
const Part = memo(function Part({ part, marked, wrap }: { part: LogPart; marked: boolean; wrap: boolean }) {
  const host = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(true);
  // How high it is, once it has been drawn; wrapped, nobody knows before.
  const height = useRef<number | null>(null);
  useEffect(() => {
    height.current = null;
  }, [wrap]);
  useEffect(() => {
    if (!host.current || typeof IntersectionObserver === "undefined") return;
    const observer = new IntersectionObserver(
      (seen) => {
        height.current = host.current?.offsetHeight ?? null;
        setNear(seen.some((s) => s.isIntersecting));
      },
      { root: host.current.parentElement, rootMargin: "1200px" },
    );
    observer.observe(host.current);
    return () => observer.disconnect();
  }, []);
  return (
    <div
      className="logpage"
      ref={host}
      data-marked={marked || undefined}
      style={near ? undefined : { height: height.current ?? part.lines.length * lineHeight }}
    >
      {near && <LogLines lines={part.lines} />}
    </div>
  );
});

export function LogLines({ lines }: { lines: readonly LogLine[] }) {
  return lines.map((line, i) => (
    <div key={i} className={line.level}>
      <span className="at">{line.at}</span> {line.level === "out" ? "" : `${line.level}: `}
      {line.text}
    </div>
  ));
}
