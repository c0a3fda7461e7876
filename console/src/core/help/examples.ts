import { kindExamples } from "./kindExamples";

const sources = import.meta.glob<string>("../../../../docs/kinds/examples/*.chain.yaml", {
  query: "?raw",
  import: "default",
  eager: true,
});

let found: ReadonlyMap<string, string> | undefined;

/** A step of each kind, as the examples of the docs have it; read once, when somebody asks. */
export const examples = (): ReadonlyMap<string, string> => (found ??= kindExamples(Object.values(sources)));
