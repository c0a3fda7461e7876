import { Link } from "@tanstack/react-router";
import { Fragment } from "react";
import { partsOfPath } from "../../core/stepPath";

/** The path of a step; what it lies in leads there. */
export function PathTrail({ run, path }: { run: number; path: string }) {
  const parts = partsOfPath(path);
  return (
    <span className="mono">
      {parts.map(({ text, of }, i) => (
        <Fragment key={i}>
          {i > 0 && " / "}
          {of === null || of === path ? (
            text
          ) : (
            <Link to="/runs/$id" params={{ id: String(run) }} search={({ leg }) => ({ leg, step: of })} replace>
              {text}
            </Link>
          )}
        </Fragment>
      ))}
    </span>
  );
}
