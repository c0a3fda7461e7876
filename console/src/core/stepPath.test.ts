import { expect, test } from "vitest";
import cases from "../../../tests/cases/step-paths.json";
import { addressOf, idOf, indexOf, inScope, iterationsOf, ownerOf, partsOfPath, scopeOf } from "./stepPath";

test.each(cases)("“$path” is taken apart as the service does", (expected) => {
  const { path } = expected;
  expect({
    path,
    scope: scopeOf(path),
    last: idOf(path),
    address: addressOf(path),
    owner: ownerOf(path),
    index: indexOf(path),
  }).toEqual(expected);
  if (scopeOf(path) !== "") expect(inScope(scopeOf(path), idOf(path))).toBe(path);
});

test("a path leads through iterations", () => {
  expect(iterationsOf("a[0]/b/c[12]/d")).toEqual([
    { owner: "a", index: 0 },
    { owner: "a[0]/b/c", index: 12 },
  ]);
  expect(iterationsOf("a/b")).toEqual([]);
  expect(iterationsOf("a[3]")).toEqual([{ owner: "a", index: 3 }]);
});

test("each part of a path leads to the step that it is of", () => {
  expect(partsOfPath("depots[2]/load")).toEqual([
    { text: "depots[2]", of: "depots" },
    { text: "load", of: "depots[2]/load" },
  ]);
  expect(partsOfPath("@failure[1]/mail")).toEqual([
    { text: "@failure[1]", of: null },
    { text: "mail", of: "@failure[1]/mail" },
  ]);
});
