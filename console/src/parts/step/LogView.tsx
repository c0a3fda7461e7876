import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useEffect, useState } from "react";
import { logFile } from "../../core/api/client";
import type { AttemptInfo, LogHitInfo } from "../../core/api/types";
import { takeLines, type LogLevel } from "../../core/runs/logLines";
import { extentOf, hasAfter, hasBefore, linesIn } from "../../core/runs/logWindow";
import { useLog, useLogSearch } from "../../queries/useLog";
import { LogLines, LogText } from "./LogText";

/** Bigger logs are not wrapped unless somebody asks for it; in bytes. */
const mostWrapped = 200_000;

/** The log of an attempt, whatever its length: read where the person is, searched by the service, followed. */
export function LogView({
  run,
  path,
  attempts,
  live,
  atEnd,
}: {
  run: number;
  path: string;
  attempts: AttemptInfo[];
  live: boolean;
  /** Whether its end is what one comes for. */
  atEnd: boolean;
}) {
  const [asked, setAsked] = useState<number | null>(null);
  const attempt = asked ?? attempts.at(-1)?.number;
  const [follow, setFollow] = useState(live);
  const log = useLog(run, path, attempt, atEnd, live && follow);
  const [search, setSearch] = useState("");
  const [level, setLevel] = useState<LogLevel | null>(null);
  const [text] = useDebouncedValue(search, 250);
  const found = useLogSearch(run, path, attempt, text, level);
  const searches = text !== "" || level !== null;
  // The found line that the log is shown around; null while the found lines are shown.
  const [at, setAt] = useState<number | null>(null);
  useEffect(() => setAt(null), [text, level, attempt]);
  const [asksWrap, setWrap] = useState<boolean | null>(null);
  const { window } = log;
  const wrap = asksWrap ?? window.size < mostWrapped;

  if (attempt === undefined) return <p className="soft">It has not been attempted, so there is no log.</p>;
  const select = (
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
  );
  if (linesIn(window) === 0)
    return (
      <>
        {attempts.length > 1 && select}
        <p className="soft">
          {log.isReading && window.size === 0
            ? "Reading…"
            : live
              ? "It has written nothing yet."
              : "It has written nothing."}
        </p>
      </>
    );
  const showsFound = searches && at === null;
  return (
    <>
      {attempts.length > 1 && select}
      <div className="logtools">
        <TextInput
          size="xs"
          aria-label="Search the log"
          placeholder="Search all of it"
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
            onChange={(e) => {
              setFollow(e.currentTarget.checked);
              if (e.currentTarget.checked && hasAfter(window)) log.goTo("end");
            }}
          />
        )}
        <Button
          size="compact-xs"
          variant="default"
          renderRoot={(props) => <a href={logFile(run, path, attempt)} download {...props} />}
        >
          Download
        </Button>
      </div>
      <div className="logstate">
        <span className="soft small" role="status">
          {showsFound ? foundSaid(found) : extentOf(window)}
        </span>
        {searches && at !== null && (
          <button type="button" className="linkbutton" onClick={() => setAt(null)}>
            Back to the found lines
          </button>
        )}
        {!showsFound && hasBefore(window) && (
          <button type="button" className="linkbutton" onClick={() => log.goTo(0)}>
            Beginning
          </button>
        )}
        {!showsFound && hasAfter(window) && (
          <button type="button" className="linkbutton" onClick={() => log.goTo("end")}>
            End
          </button>
        )}
      </div>
      {showsFound ? (
        <Found
          hits={found.hits}
          wrap={wrap}
          choose={(hit) => {
            setFollow(false);
            setAt(hit.at);
            log.goTo(hit.at);
          }}
        />
      ) : (
        <LogText
          key={at}
          log={log}
          wrap={wrap}
          marked={at}
          follow={live && follow}
          // Whoever scrolls back wants to read; at the end it follows again.
          isAtEnd={(is) => live && setFollow(is)}
        />
      )}
      {showsFound && found.searchOn && !found.isSearching && (
        <Button mt="xs" size="compact-xs" variant="default" onClick={found.searchOn}>
          Look for more
        </Button>
      )}
    </>
  );
}

function foundSaid({ hits, isSearching, searchOn }: ReturnType<typeof useLogSearch>): string {
  const count = hits.length === 1 ? "1 line" : `${hits.length.toLocaleString("en")} lines`;
  if (isSearching) return `${count} so far, searching…`;
  return searchOn ? `the first ${count}` : hits.length === 0 ? "no such line" : count;
}

/** The found lines; one that is chosen is shown where it stands. */
function Found({
  hits,
  wrap,
  choose,
}: {
  hits: readonly LogHitInfo[];
  wrap: boolean;
  choose: (hit: LogHitInfo) => void;
}) {
  return (
    <div className={wrap ? "log wrapped" : "log"} tabIndex={0} role="log" aria-label="Found lines">
      {hits.map((hit) => (
        <button
          key={hit.at}
          type="button"
          className="loghit"
          title="Show it where it stands"
          onClick={() => choose(hit)}
        >
          <LogLines lines={takeLines(`${hit.line}\n`).lines} />
        </button>
      ))}
    </div>
  );
}
