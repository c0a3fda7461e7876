import { setKey } from "../../../core/designer/operations";
import { at, plain, type Path } from "../../../core/document/tree";
import { useDesign, useDesigning } from "../useDesign";

/** Reads and sets what stands at a path of the draft. */
export function useValue(path: Path): [unknown, (value: unknown) => void] {
  const { store } = useDesigning();
  const { design } = useDesign(store);
  const value = plain(at(design.file.root, path)) ?? undefined;
  return [value, (next) => store.apply(setKey(store.state.design, path, next === "" ? undefined : next), true)];
}
