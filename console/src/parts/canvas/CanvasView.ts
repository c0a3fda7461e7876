import { createContext, useContext } from "react";
import type { InView } from "../../core/graph/instances";

/** What the drawing shows of a run, and what a click on it does; without a run, only the drawing itself. */
export interface CanvasView extends InView {
  chosen: string | null;
  choose: (path: string) => void;
  pick: (container: string, index: number) => void;
  /** Shows the run that works for a step. */
  open?: (run: number) => void;
  /** Looks for one of many iterations. */
  find?: (container: string, title: string) => void;
  /** In a rehearsal: makes a step fail, or succeed again. */
  flip?: (address: string) => void;
  /** Changes whenever gates may have been decided otherwise. */
  gateKey: string;
  /** Why a gate was decided as it was, in a sentence. */
  gateWhy: (gate: { scope: string; from: string; to: string; label: string }) => Promise<string>;
}

export const CanvasContext = createContext<CanvasView | null>(null);

export const useCanvasView = () => useContext(CanvasContext);
