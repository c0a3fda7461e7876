import { describe, expect, it } from "vitest";
import { dayBegins, isMissing } from "./words";

describe("Days of a zone", () => {
  it("begin at its midnight, also around changes of its clocks", () => {
    expect(dayBegins("2026-11-29", null)).toBe("2026-11-29T00:00:00.000Z");
    expect(dayBegins("2026-07-01", "Europe/Dublin")).toBe("2026-06-30T23:00:00.000Z");
    expect(dayBegins("2026-10-25", "Europe/Dublin")).toBe("2026-10-24T23:00:00.000Z");
    expect(dayBegins("2026-10-25", "Europe/Dublin", 1)).toBe("2026-10-26T00:00:00.000Z");
    expect(dayBegins("2026-12-31", "Pacific/Auckland", 1)).toBe("2026-12-31T11:00:00.000Z");
  });
});

describe("A run that was wanted", () => {
  it("is missing when it was refused, or late", () => {
    expect(["started", "passed-over", "refused", "late"].filter((fate) => isMissing({ fate }))).toEqual([
      "refused",
      "late",
    ]);
  });
});
