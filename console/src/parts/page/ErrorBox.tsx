import type { ReactNode } from "react";

/** What was refused or went wrong, in words; nothing when there is nothing to tell. */
export function ErrorBox({ error, children }: { error?: Error | string | null; children?: ReactNode }) {
  const message = error instanceof Error ? error.message : error;
  if ((message == null || message === "") && children == null) return null;
  return (
    <div className="errorbox" role="alert">
      {message}
      {children}
    </div>
  );
}
