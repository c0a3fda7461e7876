import { expect, test } from "vitest";
import { chosenOf, leftOut, questionOf, type Question } from "./questions";

const question = (kind: string, record = "") => questionOf(kind, record) as Question;

test.each<[string, string, Record<string, unknown>, string | null]>([
  ["wait", "", {}, null],
  ["wait", "", { until: "now" }, "until"],
  ["command", "", { shell: "ls" }, "shell"],
  ["command", "", { args: [] }, "script"],
  ["file", "", { action: "pack" }, "pack"],
  ["file", "", { action: "${params.what}" }, null],
  ["http", "", { path: "/x" }, "nothing"],
  ["http", "", { json: "{}" }, "json"],
  ["load", "from", { connection: "warehouse" }, null],
  ["load", "from", { connection: "warehouse", table: "t" }, "table"],
  ["load", "from", { connection: "warehouse", query: "SELECT 1" }, "query"],
  ["load", "into", { connection: "warehouse" }, "table"],
  ["sql", "", { give: "rows" }, "rows"],
])("what is set tells the answer: %s %s %o", (kind, record, set, chosen) =>
  expect(chosenOf(question(kind, record), set, undefined, undefined)).toBe(chosen),
);

test("the type of a connection tells what is sent", () => {
  expect(chosenOf(question("notify"), {}, undefined, "smtp")).toBe("smtp");
  expect(chosenOf(question("notify"), { event: {} }, undefined, "http")).toBe("event");
  expect(chosenOf(question("notify"), {}, undefined, undefined)).toBeNull();
});

test("another answer takes out what only the others need", () => {
  expect(leftOut(question("load", "from"), "query")).toEqual([
    "csv",
    "delimiter",
    "table",
    "jsonl",
    "json",
    "at",
    "xml",
    "row",
    "fixed",
    "widths",
    "parquet",
    "xlsx",
    "sheet",
  ]);
  expect(leftOut(question("file"), "delete")).toContain("to");
  expect(leftOut(question("file"), "copy")).not.toContain("to");
});

test("a default counts as an answer", () =>
  expect(chosenOf(question("stop"), {}, "stopped", undefined)).toBe("stopped"));
