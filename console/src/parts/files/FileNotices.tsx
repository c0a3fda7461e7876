import { Button } from "@mantine/core";
import { lazy, Suspense, useState } from "react";
import type { ProblemInfo } from "../../core/api/types";
import type { FileEditing } from "./useFileEditing";
import { ErrorBox } from "../page/ErrorBox";

const TextDifference = lazy(async () => ({ default: (await import("./TextEditor")).TextDifference }));

/** What keeps a file from being saved, or is to be known about that. */
export function FileNotices({ path, editing }: { path: string; editing: FileEditing }) {
  const { answer, conflict, refused, told, wasKept, dirty } = editing;
  const [shown, setShown] = useState(false);
  const problems = answer?.problems ?? [];
  const breaks = answer?.breaks ?? [];
  return (
    <>
      {wasKept && dirty && (
        <p className="small note" role="status">
          What you had typed here before was kept in this browser.{" "}
          <button type="button" className="linkbutton" onClick={editing.discard}>
            Let it go
          </button>
        </p>
      )}
      {told !== null && (
        <p className="small note" role="status">
          {told}
        </p>
      )}
      <ErrorBox error={refused} />
      {conflict && (
        <ErrorBox>
          <b>{conflict.by} has saved meanwhile</b>, and both of you have changed {conflict.clash.join(", ")}. Nothing
          was stored, and nothing of yours is lost.
          <div className="noticebuttons">
            <Button size="compact-xs" variant="default" onClick={() => setShown(!shown)}>
              {shown ? "Hide the difference" : "Show the difference"}
            </Button>
            <Button size="compact-xs" variant="default" onClick={editing.takeTheirs}>
              Take theirs, let mine go
            </Button>
            <Button size="compact-xs" color="red" onClick={() => void editing.saveOver()}>
              Save mine over theirs
            </Button>
          </div>
          {shown && (
            <Suspense>
              <TextDifference path={path} before={conflict.theirs} after={editing.text} />
            </Suspense>
          )}
        </ErrorBox>
      )}
      {breaks.length > 0 && (
        <ErrorBox>
          This would break{" "}
          {breaks.map((b, i) => (
            <span key={b.what}>
              {i > 0 && ", "}
              <b>{b.what}</b> ({b.message}
              {b.more > 0 && `, and ${String(b.more)} more`})
            </span>
          ))}
          .
          {dirty && !problems.some((p) => p.severity === "error") && (
            <div className="noticebuttons">
              <Button
                size="compact-xs"
                variant="default"
                onClick={() => void editing.save({ anyway: true, note: null })}
              >
                Save all the same
              </Button>
            </div>
          )}
        </ErrorBox>
      )}
    </>
  );
}

/** What is wrong with a file, line by line. */
export function FileProblems({ problems }: { problems: readonly ProblemInfo[] }) {
  if (problems.length === 0) return null;
  return (
    <ul className="fileproblems" aria-label="Problems">
      {problems.map((p, i) => (
        <li key={i} data-severity={p.severity}>
          <span aria-hidden>{p.severity === "error" ? "✕" : "△"}</span> line {p.line}: {p.message}
          {p.fix != null && <span className="soft"> ({p.fix})</span>}
        </li>
      ))}
    </ul>
  );
}
