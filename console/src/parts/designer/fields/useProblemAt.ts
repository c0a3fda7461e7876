import { useContext, useSyncExternalStore } from "react";
import { at, type Path } from "../../../core/document/tree";
import { DesignContext } from "../useDesign";

/** What the check says of a value of the draft; nothing while the text is not checked yet, or outside of a designer. */
export function useProblemAt(path: Path | undefined): string | undefined {
  const store = useContext(DesignContext)?.store;
  const state = useSyncExternalStore(store?.subscribe ?? never, () => store?.state);
  if (!state?.checked || path === undefined) return undefined;
  const node = at(state.design.file.root, path);
  if (!node) return undefined;
  return state.problems.find(
    (p) => p.severity === "error" && p.start >= node.from && p.end <= node.to && p.end > p.start,
  )?.message;
}

const never = () => () => undefined;
