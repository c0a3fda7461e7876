import { expect, test } from "vitest";
import { inOrder, used } from "./kindOrder";

const kinds = ["assign", "call", "file", "http", "load", "sql", "wait"].map((name) => ({ name }));

test("favourites come first, then what was used lately, then the rest as it was", () => {
  const recent = ["sql", "load", "sql", "wait", "file", "http"].reduce<string[]>(used, []);
  expect(recent).toEqual(["http", "file", "wait", "sql"]);
  expect(inOrder(kinds, ["wait", "call"], recent).map((k) => k.name)).toEqual([
    "call",
    "wait",
    "http",
    "file",
    "sql",
    "assign",
    "load",
  ]);
});
