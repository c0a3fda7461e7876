import { createContext, useContext } from "react";

/** What the drawing needs to be worked on; without it, it is only looked at. */
export interface EditView {
  chosen: ReadonlySet<string>;
  /** The handler that is chosen as a whole. */
  chosenBand: string | null;
  chosenGate: { scope: string; index: number } | null;
  /** The worst problem of a step or gate, by address or `scope#index`. */
  problems: ReadonlyMap<string, "error" | "warning" | "hint">;
  chooseGate: (scope: string, index: number) => void;
  /** Steps that a try pauses before. */
  pauses: ReadonlySet<string>;
  /** Why a step can never run, for those that can't. */
  never: ReadonlyMap<string, string>;
  /** The step a dragged kind would be put behind, the container it would be put into, or the link it would part. */
  over?: string;
  /** What a step does, in a few words, off its settings. */
  fact: (address: string) => string | null;
  /** What a comparison says of a step or gate. */
  changes: ReadonlyMap<string, string>;
}

export const EditContext = createContext<EditView | null>(null);

export const useEditView = () => useContext(EditContext);
