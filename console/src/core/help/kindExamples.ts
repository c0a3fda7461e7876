import { Design } from "../document/design";
import { excerpt } from "../document/edit";
import { at, YamlText } from "../document/tree";

/** How many lines of an example one reads in passing. */
const shown = 9;

/** A step of each kind as a file says it, by kind: the first one in the examples of the docs. */
export function kindExamples(sources: readonly string[]): ReadonlyMap<string, string> {
  const examples = new Map<string, string>();
  for (const source of sources) {
    const design = new Design(new YamlText(source));
    for (const step of design.steps.values()) {
      const node = at(design.file.root, step.path);
      if (!node || examples.has(step.kind)) continue;
      const lines = excerpt(source, node).split("\n");
      examples.set(step.kind, [...lines.slice(0, shown), ...(lines.length > shown ? ["…"] : [])].join("\n"));
    }
  }
  return examples;
}
