import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { memo, useEffect, useMemo, useRef, useState } from "react";
import { act } from "../../app/act";
import type { AttemptInfo } from "../../core/api/types";
import { matchingLines, type LogLevel, type LogLine } from "../../core/runs/logLines";
import { readWholeLog, useLog } from "../../queries/useLog";

/** The log of an attempt: all of it, searched and followed while the attempt is running. */
export function LogView({
  run,
  path,
  attempts,
  live,
}: {
  run: number;
  path: string;
  attempts: AttemptInfo[];
  live: boolean;
}) {
  const latest = attempts.at(-1)?.number;
  const [asked, setAsked] = useState<number | null>(null);
  const attempt = asked ?? latest;
  const log = useLog(run, path, attempt);
  const [search, setSearch] = useState("");
  const [level, setLevel] = useState<LogLevel | null>(null);
  const [follow, setFollow] = useState(live);
  const [asksWrap, setWrap] = useState<boolean | null>(null);
  // Where lines are not wrapped the room of a page is known before it is drawn.
  const wrap = asksWrap ?? log.lines < mostWrapped;
  const box = useRef<HTMLDivElement>(null);
  const filtered = search !== "" || level !== null;
  const found = useMemo(
    () => (filtered ? log.pages.flatMap((page) => matchingLines(page, search, level)) : null),
    [filtered, log.pages, search, level],
  );

  useEffect(() => {
    if (follow && box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [log.pages, follow]);
  // Whoever scrolls back wants to read; at the end it follows again.
  const onScroll = () => {
    const { scrollTop = 0, scrollHeight = 0, clientHeight = 0 } = box.current ?? {};
    if (live) setFollow(scrollHeight - scrollTop - clientHeight < 24);
  };

  if (attempt === undefined) return <p className="soft">It has not been attempted, so there is no log.</p>;
  return (
    <>
      {attempts.length > 1 && (
        <NativeSelect
          mb="xs"
          size="xs"
          aria-label="Attempt"
          value={String(attempt)}
          onChange={(e) => setAsked(Number(e.currentTarget.value))}
          data={attempts.map((a) => ({
            value: String(a.number),
            label: `leg ${String(a.leg)}, attempt ${String(a.attempt)}: ${a.result}`,
          }))}
        />
      )}
      {log.lines === 0 ? (
        <p className="soft">{live ? "It has written nothing yet." : "It has written nothing."}</p>
      ) : (
        <>
          <div className="logtools">
            <TextInput
              size="xs"
              aria-label="Search the log"
              placeholder="Search"
              value={search}
              onChange={(e) => setSearch(e.currentTarget.value)}
            />
            <NativeSelect
              size="xs"
              aria-label="Lines"
              value={level ?? ""}
              onChange={(e) => setLevel((e.currentTarget.value || null) as LogLevel | null)}
              data={[
                { value: "", label: "all lines" },
                { value: "err", label: "errors" },
                { value: "note", label: "notes" },
              ]}
            />
            <Checkbox size="xs" label="Wrap" checked={wrap} onChange={(e) => setWrap(e.currentTarget.checked)} />
            {live && (
              <Checkbox
                size="xs"
                label="Follow"
                checked={follow}
                onChange={(e) => setFollow(e.currentTarget.checked)}
              />
            )}
            <Button size="compact-xs" variant="default" onClick={() => void download(run, path, attempt)}>
              Download
            </Button>
          </div>
          <p className="soft small" role="status">
            {found === null ? "" : `${found.length.toLocaleString("en")} of `}
            {log.lines === 1 ? "1 line" : `${log.lines.toLocaleString("en")} lines`}
            {log.isReading && ", reading…"}
          </p>
          <div
            className={wrap ? "log wrapped" : "log"}
            ref={box}
            tabIndex={0}
            role="log"
            aria-label="Log"
            onScroll={onScroll}
          >
            {found === null ? (
              log.pages.map((page, i) => <LogPage key={i} lines={page} />)
            ) : (
              <LogPage lines={found.slice(0, mostFound)} />
            )}
          </div>
          {found !== null && found.length > mostFound && (
            <p className="soft small">
              The first {mostFound.toLocaleString("en")} are shown; search for more to narrow.
            </p>
          )}
          {log.readOn && (
            <Button mt="xs" size="compact-xs" variant="default" onClick={log.readOn}>
              Read on
            </Button>
          )}
        </>
      )}
    </>
  );
}

const mostFound = 2_000;

/** Longer logs are not wrapped unless somebody asks for it. */
const mostWrapped = 2_000;

/** The height of a line that is not wrapped, in pixels; `.logpage` has the same. */
const lineHeight = 18;

/** Some lines. They are drawn while they are near the part that is in view; out of it they only take their room. */
const LogPage = memo(function LogPage({ lines }: { lines: readonly LogLine[] }) {
  const host = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(typeof IntersectionObserver === "undefined");
  useEffect(() => {
    if (!host.current || typeof IntersectionObserver === "undefined") return;
    const observer = new IntersectionObserver((seen) => setNear(seen.some((s) => s.isIntersecting)), {
      root: host.current.parentElement,
      rootMargin: "800px",
    });
    observer.observe(host.current);
    return () => observer.disconnect();
  }, []);
  return (
    <div className="logpage" ref={host} style={near ? undefined : { height: lines.length * lineHeight }}>
      {near &&
        lines.map((line, i) => (
          <div key={i} className={line.level}>
            <span className="at">{line.at}</span> {line.level === "out" ? "" : `${line.level}: `}
            {line.text}
          </div>
        ))}
    </div>
  );
});

async function download(run: number, path: string, attempt: number) {
  const texts = await act("The log was not downloaded", () => readWholeLog(run, path, attempt));
  if (!texts) return;
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob(texts, { type: "text/plain" }));
  link.download = `run-${String(run)}-${path.replace(/[^\w.-]+/g, "-")}.log`;
  link.click();
  URL.revokeObjectURL(link.href);
}
