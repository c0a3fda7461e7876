import { expect, test } from "vitest";
import type { StepStatus } from "../api/types";
import { factInRun } from "./stepFact";

const status = (state: string, more: Partial<StepStatus> = {}) =>
  ({
    state,
    attempt: 1,
    message: null,
    absorbed: false,
    warned: false,
    progress: null,
    hold: null,
    lane: null,
    started: "2026-11-22T02:30:00Z",
    ended: "2026-11-22T02:30:01.265Z",
    ...more,
  }) as StepStatus;

test("in a rehearsal nothing takes time", () => {
  expect(factInRun(status("succeeded"), true).text).toBe("succeeded");
  expect(factInRun(status("failed", { message: "made up" }), true).text).toBe("made up");
});

test.each([
  [status("succeeded"), "✓ 1.3 s"],
  [status("succeeded", { warned: true }), "✓ 1.3 s, with warnings"],
  [status("succeeded", { started: null, ended: null }), "✓ succeeded"],
  [status("failed", { message: "74 of 1,265 lines were rejected" }), "✕ 74 of 1,265 lines were rejected"],
  [status("failed", { absorbed: true, message: "no mail" }), "✕ failed, dealt with"],
  [status("held", { hold: { message: "no pickups from west" } as StepStatus["hold"] }), "◇ no pickups from west"],
  [status("held"), "◇ held by its guard"],
  [status("queued", { lane: "warehouse" }), "≡ waits for lane warehouse"],
  [status("running", { progress: "12,000 rows" }), "▸ 12,000 rows"],
  [status("running"), "▸ running"],
  [status("resting", { attempt: 2 }), "◔ attempt 2 failed; tries again"],
  [status("paused"), "‖ waits for a person"],
  [status("skipped"), "– skipped"],
])("what matters about a step is told in a line: %#", (given, expected) => {
  const { mark, text } = factInRun(given);
  expect(`${mark ?? ""} ${text}`).toBe(expected);
});
