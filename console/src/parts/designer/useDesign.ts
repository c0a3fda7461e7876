import { createContext, useContext, useSyncExternalStore } from "react";
import type { KindsInfo, WorkspaceContextInfo } from "../../core/api/types";
import type { DesignState, DesignStore } from "../../core/designer/DesignStore";

/** What all parts of the designer share. */
export interface Designing {
  store: DesignStore;
  kinds: KindsInfo;
  context: WorkspaceContextInfo;
  /** A past run whose data expressions are shown with; null for none. */
  pastRun: number | null;
  setPastRun: (run: number | null) => void;
  /** Opens the dialog that renames. */
  rename: (what: "step" | "variable" | "parameter" | "branch", scope: string, name: string, to?: string) => void;
}

export const DesignContext = createContext<Designing | null>(null);

export function useDesigning(): Designing {
  const designing = useContext(DesignContext);
  if (!designing) throw new Error("outside of the designer");
  return designing;
}

/** The draft as it is now. */
export function useDesign(store: DesignStore): DesignState {
  return useSyncExternalStore(store.subscribe, () => store.state);
}
