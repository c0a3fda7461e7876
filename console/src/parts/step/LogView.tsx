import { NativeSelect } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { getLog } from "../../core/api/client";
import type { AttemptInfo } from "../../core/api/types";

/** The log of an attempt; continues reading while the attempt is running. */
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
  const [text, setText] = useState("");
  const box = useRef<HTMLPreElement>(null);

  useEffect(() => {
    let wanted = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    setText("");
    const read = async (from: number) => {
      try {
        const page = await getLog(run, path, attempt, from);
        if (!wanted) return;
        if (page.text !== "") setText((before) => (before + page.text).slice(-400_000));
        if (!page.ended) timer = setTimeout(() => void read(page.next), page.text === "" ? 400 : 0);
      } catch {
        if (wanted) timer = setTimeout(() => void read(from), 2_000);
      }
    };
    if (attempt !== undefined) void read(0);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [run, path, attempt]);

  useEffect(() => {
    if (live && box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [text, live]);

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
      {text === "" ? (
        <p className="soft">{live ? "It has said nothing yet." : "It has said nothing."}</p>
      ) : (
        <pre className="log" ref={box} tabIndex={0} aria-label="Log">
          {text.split("\n").map((line, i) => (
            <LogLine key={i} line={line} />
          ))}
        </pre>
      )}
    </>
  );
}

function LogLine({ line }: { line: string }) {
  const found = /^(\S+T)(\S+)Z (out|err|note) +(.*)$/.exec(line);
  if (!found) return <>{line}</>;
  return (
    <div className={found[3]}>
      <span className="at">{found[2]}</span> {found[3] === "out" ? "" : `${found[3] ?? ""}: `}
      {found[4]}
    </div>
  );
}
