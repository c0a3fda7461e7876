import { describe, expect, it } from "vitest";
import { putEntry, readEntry } from "../document/entries";
import { blank, kindOf, oftenOf, reword } from "./form";

const file = `# what starts by itself
nightly:
  chain: intake            # the big one
  schedule: { every: day, at: "02:30", zone: Europe/Dublin }

come:
  chain: depot
  arrival: { path: "in/*.csv" }
`;

describe("files of triggers", () => {
  it("keep all that is not changed", () => {
    const entry = readEntry(file, "nightly");
    expect(entry).toEqual({ chain: "intake", schedule: { every: "day", at: "02:30", zone: "Europe/Dublin" } });
    expect(putEntry(file, "nightly", "nightly", { ...entry, active: false })).toBe(
      file.replace("Europe/Dublin }\n", "Europe/Dublin }\n  active: false\n"),
    );
    expect(putEntry(file, "nightly", "nightly", entry)).toBe(file);
  });

  it("lose a trigger, and gain one", () => {
    expect(readEntry(putEntry(file, "come", "come", null), "come")).toBeNull();
    expect(putEntry(file, "come", "come", null)).toContain("# the big one");
    const more = putEntry(file, null, "call", blank("hook", "orders"));
    expect(readEntry(more, "call")).toEqual({ chain: "orders", hook: { path: "orders", sign: "secret:hook" } });
    expect(more.startsWith("# what starts by itself")).toBe(true);
  });

  it("begin with the first trigger", () => {
    const first = putEntry("", null, "call", blank("outcome", "tell"));
    expect(readEntry(first, "call")).toEqual({ chain: "tell", outcome: { chains: ["*", "!tell"], is: ["failed"] } });
  });

  it("rename one", () => {
    const renamed = putEntry(file, "come", "came", readEntry(file, "come"));
    expect(readEntry(renamed, "come")).toBeNull();
    expect(readEntry(renamed, "came")).toEqual({ chain: "depot", arrival: { path: "in/*.csv" } });
  });
});

describe("schedules in words", () => {
  it.each([
    [{ every: "day", at: "02:30" }, "day"],
    [{ every: ["mon", "thu"], at: "02:30" }, "week"],
    [{ every: "tue", at: "02:30" }, "week"],
    [{ every: "15m" }, "step"],
    [{ every: "month", on: 1, at: "02:30" }, "month"],
    [{ cron: "* * * * *" }, "cron"],
    [{ rrule: "FREQ=DAILY" }, "rrule"],
  ] as const)("%j is %s", (schedule, words) => {
    expect(oftenOf(schedule)).toBe(words);
  });

  it("keep zone and days off when they are said otherwise", () => {
    expect(reword({ every: "day", at: "02:30", zone: "Europe/Dublin", except: "off" }, "step")).toEqual({
      every: "15m",
      zone: "Europe/Dublin",
      except: "off",
    });
    expect(reword({ cron: "0 6 * * *", missed: "all" }, "month")).toEqual({
      every: "month",
      on: "1",
      at: "06:00",
      missed: "all",
    });
  });

  it("are of one kind", () => {
    expect(kindOf({ schedule: {} })).toBe("schedule");
    expect(kindOf({ schedule: {}, hook: {} })).toBeNull();
  });
});
