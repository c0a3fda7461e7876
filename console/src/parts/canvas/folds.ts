import { createContext, useContext } from "react";

/** Which containers and handlers are drawn folded. */
export interface Folds {
  folded: ReadonlySet<string>;
  fold: (address: string, folded: boolean) => void;
}

export const FoldContext = createContext<Folds>({ folded: new Set(), fold: () => undefined });

export const useFolds = () => useContext(FoldContext);
