// Writes the cases of the open CEL conformance suite as one JSON file, whose path is the only argument.
import { mkdirSync, writeFileSync } from "node:fs";
import { dirname } from "node:path";

const [, , file] = process.argv;
const cases = [];

function walk(kind, suite, path) {
  for (const inner of suite.suites ?? []) walk(kind, inner, [...path, inner.name]);
  for (const { original, ast, type } of suite.tests ?? []) {
    cases.push({ kind, group: path[0] ?? kind, suite: path.slice(1).join("/"), original, parses: ast !== undefined, ast: kind === "parsing" ? ast?.replace(/\^#[^#]*#/g, "") : undefined, type });
  }
}

for (const kind of ["conformance", "parsing", "checking", "comprehension"]) {
  walk(kind, (await import(`@bufbuild/cel-spec/testdata/${kind}.js`)).tests, []);
}
mkdirSync(dirname(file), { recursive: true });
writeFileSync(file, JSON.stringify(cases));
