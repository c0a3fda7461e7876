import { expect, test } from "vitest";
import { destinations, runMeant } from "./goTo";

test("chains are gone to by title or name, with what one does there", () => {
  const all = destinations([
    { name: "milk-intake", title: "Milk intake" },
    { name: "a b", title: null },
  ]);
  const keys = (word: string) => all.filter((d) => d.name.includes(word) || d.about.includes(word)).map((d) => d.key);
  expect(keys("Milk intake")).toEqual([
    "/chains/milk-intake",
    "/chains/milk-intake?do=start",
    "/chains/milk-intake/design",
    "/chains/milk-intake/history",
    "/runs?chain=milk-intake",
  ]);
  expect(keys("a b")).toContain("/chains/a%20b");
  expect(new Set(all.map((d) => d.key)).size).toBe(all.length);
});

test("a number is a run", () => {
  expect(runMeant("812").map((d) => d.key)).toEqual(["/runs/812", "/runs/812/difference", "/runs/812?do=resume"]);
  expect(runMeant("Run 7")[0]?.key).toBe("/runs/7");
  expect([runMeant("load 7"), runMeant("")]).toEqual([[], []]);
});
