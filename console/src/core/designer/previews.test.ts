import { expect, test } from "vitest";
import type { FoundInfo } from "../api/types";
import { columnsOf, countsOf, fromOf, headerOf } from "./previews";

const found = {
  from: 'csv: inbox/west-2026-11-22.csv\ndelimiter: ";"\ntext: { encoding: windows-1252, decimal: "," }',
  columns: "farm: {}\nday: { type: date, format: dd.MM.yyyy }\nlitres: { type: decimal }",
  sentences: [],
  header: [{ name: "farm" }, { name: "day" }, { name: "litres" }],
} as unknown as FoundInfo;

test("a file is read as it was found to be, under the path that was written", () =>
  expect(
    fromOf(found, { fixed: "inbox/west-${params.day}.csv", widths: { a: 1 }, server: "depots", packed: "gzip" }),
  ).toEqual({
    csv: "inbox/west-${params.day}.csv",
    delimiter: ";",
    text: { encoding: "windows-1252", decimal: "," },
    server: "depots",
    packed: "gzip",
  }));

test("chosen columns are taken; what somebody computes or renames stays", () => {
  const all = new Set(["farm", "day", "litres"]);
  expect(columnsOf(found, {}, {}, new Set(["day"]))).toEqual({ day: { type: "date", format: "dd.MM.yyyy" } });
  expect(
    columnsOf(
      found,
      {},
      { volume: { from: "litres", type: "float" }, half: { value: "row.litres / 2" }, old: {} },
      all,
    ),
  ).toEqual({
    farm: {},
    day: { type: "date", format: "dd.MM.yyyy" },
    volume: { from: "litres", type: "float" },
    half: { value: "row.litres / 2" },
  });
});

test("names that somebody gave to a file without a header stay, and so do rules beside a type", () => {
  const bare = { ...found, from: "csv: w.csv\ntext: { header: false }" };
  const from = { csv: "w.csv", text: { header: false, names: ["who", "when", "what"], skip: 3 } };
  expect(headerOf(bare, from).map((c) => c.name)).toEqual(["who", "when", "what"]);
  expect(fromOf(bare, from)).toEqual({ csv: "w.csv", text: { header: false, names: ["who", "when", "what"] } });
  expect(columnsOf(bare, from, { what: { required: true, min: 0 } }, new Set(["when", "what"]))).toEqual({
    when: { type: "date", format: "dd.MM.yyyy" },
    what: { required: true, min: 0, type: "decimal" },
  });
  // Of another file nobody knows which is which.
  expect(headerOf(bare, { text: { names: ["who"] } })).toEqual(bare.header);
  expect(headerOf(found, from)).toEqual(found.header);
});

test.each<[number, boolean, number, string]>([
  [1, true, 0, "1 row"],
  [10_000, false, 0, "10,000 rows looked at, there are more"],
  [3, true, 2, "3 rows; 2 of them would be rejected"],
])("%i rows are counted", (seen, isAll, rejected, sentence) =>
  expect(countsOf({ seen, isAll, rejected })).toBe(sentence),
);
