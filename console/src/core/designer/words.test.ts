import { describe, expect, test } from "vitest";
import { comparisons, literalOf, readSimple, writeSimple } from "./comparisons";
import { gateSentence, retrySentence } from "./sentences";

describe("retry in words", () => {
  test.each<[Parameters<typeof retrySentence>[0], string]>([
    [null, "It is tried once."],
    [{ limit: 3, wait: "5s", factor: 2 }, "It is tried up to 3 more times, after 5, 10 and 20 seconds."],
    [{ limit: 1, wait: "1m" }, "It is tried once more, after 60 seconds."],
    [
      { limit: 6, wait: "1s", factor: 2, max: "4s" },
      "It is tried up to 6 more times, after 1, 2, 4, 4 and so on seconds.",
    ],
    [{ limit: 2 }, "It is tried up to 2 more times, at once."],
    [
      { limit: 2, wait: "10m", jitter: 0.1 },
      "It is tried up to 2 more times, each after 10 minutes (give or take 10 %).",
    ],
    [{ limit: 2, wait: "soon" }, "It is tried up to 2 more times; the wait is not a duration yet."],
  ])("%j", (rule, sentence) => {
    expect(retrySentence(rule)).toBe(sentence);
  });
});

describe("simple comparisons", () => {
  test.each([
    "steps.load.rows_read > 0",
    "params.mode == 'night' && size(steps.depots.collected) >= 2",
    "vars.done || !vars.late",
    "has(steps.look.newest)",
    "item.startsWith('no\\'rth') || item == \"west\"",
    "run.started < timestamp('2026-11-23T06:00:00Z')",
    "a == b",
  ])("%s is read and written back", (text) => {
    const read = readSimple(text);
    expect(read).not.toBeNull();
    expect(read && writeSimple(read)).toBe(text);
  });

  test.each(["a && b || c", "size(xs.filter(x, x > 1)) > 0", "a ? b : c", "a + 1 > 2", "(a || b) && c"])(
    "%s is beyond",
    (text) => {
      expect(readSimple(text)).toBeNull();
    },
  );

  test("every comparison comes back as what it was", () => {
    for (const { how, right } of comparisons) {
      const simple = { join: "&&" as const, parts: [{ left: "steps.a.b", how, right: right ? "'x'" : "" }] };
      expect(readSimple(writeSimple(simple))).toEqual(simple);
    }
  });

  test.each([
    ["north", "string", "'north'"],
    ["5", "int", "5"],
    ["2h", "duration", "duration('2h')"],
    ["it's", "string", "'it\\'s'"],
    ["steps.a.b", "string", "steps.a.b"],
    ["true", "any", "true"],
  ])("%s as %s", (typed, type, written) => {
    expect(literalOf(typed, type)).toBe(written);
  });
});

test("gates in words", () => {
  expect(
    gateSentence({
      from: "load",
      to: "x",
      on: "completion",
      condition: "vars.n > 1",
      either: false,
      branch: false,
      isElse: false,
    }),
  ).toBe("It opens when “load” succeeds or fails and vars.n > 1.");
  expect(
    gateSentence({
      from: "a",
      to: "x",
      on: "success",
      condition: null,
      either: false,
      branch: false,
      isElse: true,
    }),
  ).toBe("It opens when “a” succeeds and no gate with a condition beside it has opened.");
});
