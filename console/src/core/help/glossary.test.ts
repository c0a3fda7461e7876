import { expect, test } from "vitest";
import concepts from "../../../../docs/concepts.md?raw";
import { find, wordsOf } from "./glossary";

test("the words of the docs are read, without marks that are for documents", () => {
  const words = wordsOf(concepts);
  expect(words.length).toBeGreaterThan(25);
  expect(words.find((w) => w.word === "gate")?.text).toBe(
    "a conditional link between two steps of a scope. Undecided until its source settles, then open or shut, once and for good",
  );
  for (const { text } of words) expect(text).not.toMatch(/\]\(|\*\*/);
});

test("a word is found by its name before others that only speak of it", () => {
  const words = [
    { word: "leg", text: "a stretch of a run" },
    { word: "run", text: "one execution of a chain" },
  ];
  expect(find(words, "RUN").map((w) => w.word)).toEqual(["run", "leg"]);
  expect(find(words, "").length).toBe(2);
  expect(find(words, "nothing")).toEqual([]);
});
