import { describe, expect, it } from "vitest";
import type { DatasetInfo, LineageInfo } from "../api/types";
import { columnsOf, nameOf } from "./flows";

const table = (name: string): DatasetInfo => ({ form: "table", connection: "db", name });
const file = (name: string): DatasetInfo => ({ form: "file", connection: null, name });

describe("data and where they go", () => {
  it("has names as people write them", () => {
    expect([nameOf(table("t")), nameOf(file("in/a.csv"))]).toEqual(["db:t", "in/a.csv"]);
  });

  it("stand once in each column, with every step that leads there", () => {
    const found: LineageInfo = {
      uses: { data: table("t"), writers: [], readers: [] },
      before: [
        { from: file("a"), through: { chain: "c", step: "one" }, to: table("t"), steps: 1 },
        { from: file("a"), through: { chain: "c", step: "two" }, to: table("t"), steps: 1 },
        { from: table("far"), through: { chain: "d", step: "x" }, to: file("a"), steps: 2 },
      ],
      after: [{ from: table("t"), through: { chain: "e", step: "y" }, to: file("out"), steps: 1 }],
    };
    expect(
      columnsOf(found).map((c) => [c.distance, c.places.map((p) => `${p.name} ${String(p.through.length)}`)]),
    ).toEqual([
      [-2, ["db:far 1"]],
      [-1, ["a 2"]],
      [0, ["db:t 0"]],
      [1, ["out 1"]],
    ]);
  });
});
