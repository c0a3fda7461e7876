import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { useNow } from "../../app/useNow";
import { fileAddress } from "../../core/api/files";
import type { FileVersion } from "../../core/api/types";
import { bytes, clock } from "../../core/format";
import { fileVersionQuery, fileVersionsQuery } from "../../queries/files";
import { ErrorBox } from "../page/ErrorBox";

const TextDifference = lazy(async () => ({ default: (await import("./TextEditor")).TextDifference }));

/** The versions of a file, who made them, and what another one says differently from what stands in the editor. */
export function FileVersions({
  path,
  text,
  bringBack,
}: {
  path: string;
  text: string;
  bringBack: (text: string, version: string) => void;
}) {
  const { data, error } = useQuery(fileVersionsQuery(path));
  const [chosen, setChosen] = useState<string | null>(null);
  const now = useNow(false);
  if (error) return <ErrorBox error={error} />;
  const shown = chosen ?? data?.[1]?.version ?? null;
  return (
    <div className="fileversions">
      <ol aria-label="Versions">
        {(data ?? []).map((v, i) => (
          <li key={v.version}>
            <button
              type="button"
              aria-current={v.version === shown}
              disabled={v.size == null}
              onClick={() => setChosen(v.version)}
            >
              <b>{/^\d+$/.test(v.version) ? `version ${v.version}` : v.version}</b>
              {i === 0 && " (now)"}
              <div className="soft small">
                {howItCame(v)} by {v.by}, {clock(v.at, now)}
                {v.size != null && `, ${bytes(v.size)}`}
              </div>
            </button>
          </li>
        ))}
      </ol>
      {shown === null ? (
        <p className="soft">There is no earlier version.</p>
      ) : (
        <Comparison key={shown} path={path} version={shown} text={text} bringBack={bringBack} />
      )}
    </div>
  );
}

const howItCame = (version: FileVersion) =>
  version.size == null
    ? "taken away"
    : version.action === "save"
      ? "saved"
      : version.action === "release" || version.action === "go back"
        ? "released"
        : "pushed";

function Comparison({
  path,
  version,
  text,
  bringBack,
}: {
  path: string;
  version: string;
  text: string;
  bringBack: (text: string, version: string) => void;
}) {
  const { data, error } = useQuery(fileVersionQuery(path, version));
  const before = data?.text;
  return (
    <div className="comparison">
      <ErrorBox error={error} />
      {data && (
        <div className="labelrow">
          <span className="soft small">
            {before === text
              ? "It says what stands in the editor."
              : "What stands in the editor, beside it: what is gone is struck, what is new is marked."}
          </span>
          <span>
            <Button size="compact-xs" variant="subtle" component="a" href={fileAddress(path, version)} download>
              Download
            </Button>
            {before != null && before !== text && (
              <Button size="compact-xs" variant="default" onClick={() => bringBack(before, version)}>
                Bring it into the editor
              </Button>
            )}
          </span>
        </div>
      )}
      {before != null && before !== text && (
        <Suspense>
          <TextDifference path={path} before={before} after={text} />
        </Suspense>
      )}
    </div>
  );
}
