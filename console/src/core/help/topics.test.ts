import { expect, test } from "vitest";
import expressions from "../../../../docs/expressions.md?raw";
import keys from "../../../../docs/keys.md?raw";
import problems from "../../../../docs/problems.md?raw";
import type { KindInfo } from "../api/types";
import { placeOf, tellPlace } from "./place";
import { findTopics, functionTopics, keyTopics, kindTopics, problemTopics } from "./topics";

test("functions have what they do and an example that was evaluated", () => {
  const found = functionTopics(expressions);
  expect(found.length).toBeGreaterThan(80);
  const division = found.find((t) => t.name === "/");
  expect(division).toMatchObject({ group: "Operators", lines: ["`7 / 2` gives `3`"] });
  for (const t of found) expect(t.text).not.toBe("");
  // A bar within code is no border of a cell.
  expect(found.find((t) => t.name === "&&, ||")?.lines).toEqual(["`true || 1 / 0 > 1` gives `true`"]);
});

test("each problem has what to do, and most an example", () => {
  const found = problemTopics(problems);
  expect(found.length).toBeGreaterThan(50);
  expect(found[0]).toMatchObject({ name: "GC1001", group: "error" });
  expect(found.filter((t) => t.example !== null).length).toBeGreaterThan(30);
  for (const t of found) expect(t.example ?? "").not.toContain("###");
});

test("keys are told by place", () => {
  const found = keyTopics(keys);
  expect(found.find((t) => t.name === "?")?.group).toBe("everywhere");
  expect(found.map((t) => t.name)).not.toContain("---");
  expect(findTopics(found, "canvas").length).toBeGreaterThan(10);
});

test("kinds tell settings and outputs", () => {
  const kind = {
    name: "sql",
    doc: "Runs statements.",
    purpose: "data",
    schema: {
      properties: {
        title: { description: "What people call it." },
        set: { properties: { query: { description: "The statements." } }, required: ["query"] },
      },
    },
    outputs: [
      { name: "rows", type: "list" },
      { name: "*", type: "any" },
    ],
  } as unknown as KindInfo;
  const [every, sql] = kindTopics([kind], [], new Map([["sql", "kind: sql"]]));
  expect(every?.lines).toEqual(["`title`: What people call it."]);
  expect(sql).toEqual({
    name: "sql",
    group: "data",
    text: "Runs statements.",
    lines: ["`query` (required): The statements.", "It gives `rows` (list)."],
    example: "kind: sql",
  });
});

test("what is called just so comes first, then what is called like it", () => {
  const of = (name: string, text = "") => ({ name, group: "", text, lines: [], example: null });
  const topics = [of("a", "speaks of size"), of("sizes"), of("size"), of("b")];
  expect(findTopics(topics, "Size").map((t) => t.name)).toEqual(["size", "sizes", "a"]);
});

test("help is about the place one is at", () => {
  expect(placeOf("/runs/7")).toEqual({ about: "words", find: "run" });
  expect(placeOf("/chains/a/design")).toEqual({ about: "keys", find: "canvas" });
  tellPlace({ about: "kinds", find: "sql" });
  expect(placeOf("/chains/a/design")).toEqual({ about: "kinds", find: "sql" });
  tellPlace(null);
  expect(placeOf("/")).toEqual({ about: "words" });
});
