import type { ReactNode } from "react";

/** What a list says while it has no rows: why, and what to do about it. */
export function EmptyState({ children }: { children: ReactNode }) {
  return <div className="sheet empty">{children}</div>;
}
