import { expect, test } from "vitest";
import { takeLines } from "./logLines";

const log =
  "2026-11-22T02:30:01.123Z out  reading north.csv\n" +
  "2026-11-22T02:30:02.000Z err  line 6: farm_id is empty\n  in column 2\n" +
  "2026-11-22T02:30:03.000Z note stopped";

test("whole lines are taken, a begun one waits for its end", () => {
  const first = takeLines(log);
  expect(first.lines).toEqual([
    { at: "02:30:01.123", level: "out", text: "reading north.csv" },
    { at: "02:30:02.000", level: "err", text: "line 6: farm_id is empty" },
    { at: "", level: "err", text: "  in column 2" },
  ]);
  expect(first.rest).toBe("2026-11-22T02:30:03.000Z note stopped");
  expect(takeLines(`${first.rest} by ann\n`, first.level).lines[0]?.text).toBe("stopped by ann");
  expect(takeLines("").lines).toEqual([]);
});
