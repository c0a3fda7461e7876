import { expect, test } from "vitest";
import { kindExamples } from "./kindExamples";

const chain = (body: string) => `chain: t\nsteps:\n${body}`;

test("each kind has its first step as an example, cut where nobody reads on", () => {
  const long = Array.from({ length: 12 }, (_, i) => `        k${String(i)}: 1\n`).join("");
  const found = kindExamples([
    chain("  a:\n    kind: sql\n    set:\n      query: SELECT 1\n  b: { kind: sql }\n"),
    chain(`  c:\n    kind: each\n    steps:\n      d: { kind: wait, set: { for: 1s } }\n`),
    chain(`  e:\n    kind: load\n    set:\n      from:\n${long}`),
  ]);
  expect(found.get("sql")).toBe("kind: sql\nset:\n  query: SELECT 1");
  expect(found.get("wait")).toBe("{ kind: wait, set: { for: 1s } }");
  const load = found.get("load")?.split("\n") ?? [];
  expect([load.length, load[9]]).toEqual([10, "…"]);
});
