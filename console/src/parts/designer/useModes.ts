import { useState, type ReactNode } from "react";
import type { DesignState } from "../../core/designer/DesignStore";
import type { CanvasView } from "../canvas/CanvasView";
import { useRehearsal } from "./panels/RehearsePanel";
import { useTry } from "./panels/TryPanel";

/** What the designer is used for: to change the chain, to rehearse it, or to run it as it is. */
export type Mode = "design" | "rehearse" | "try";

/** The mode that the designer is in, and what it shows for it. */
export interface Modes {
  mode: Mode;
  /** The tab of the lower part that is open. */
  tab: string;
  chooseTab: (tab: string) => void;
  /** Goes to a mode, or back to designing when it is in it. */
  toggle: (mode: Mode) => void;
  /** Goes back to designing; the tab stays. */
  design: () => void;
  /** States of steps and gates on the canvas; null while designing. */
  view: CanvasView | null;
  /** What stands in place of the inspector; null while designing. */
  panel: ReactNode | null;
  /** What happened in the rehearsal, line by line; null outside of one. */
  trace: ReactNode | null;
}

export function useModes(state: DesignState, pauses: ReadonlySet<string>): Modes {
  const [mode, setMode] = useState<Mode>("design");
  const [tab, chooseTab] = useState("problems");
  const rehearsal = useRehearsal(state, mode === "rehearse");
  const trying = useTry(state, mode === "try", pauses);
  const shown = mode === "rehearse" ? rehearsal : mode === "try" ? trying : null;
  return {
    mode,
    tab,
    chooseTab,
    toggle: (next) => {
      setMode(mode === next ? "design" : next);
      chooseTab(next === "rehearse" && mode !== next ? "trace" : "problems");
    },
    design: () => setMode("design"),
    view: shown?.view ?? null,
    panel: shown?.panel ?? null,
    trace: mode === "rehearse" ? rehearsal.trace : null,
  };
}
