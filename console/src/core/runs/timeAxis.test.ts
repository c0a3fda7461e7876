import { expect, test } from "vitest";
import { inWindow, moved, ticksOf, wholeAxis, zoomed } from "./timeAxis";

const spans = (...lengths: number[]) =>
  lengths.map((length, i) => ({ leg: i + 1, from: 1000 * i * 3600, to: 1000 * i * 3600 + length }));

test.each([
  [[1600], "0 ms 500 ms 1.0 s 1.5 s"],
  [[42_000], "0 ms 10.0 s 20.0 s 30.0 s 40.0 s"],
  [[3 * 3_600_000], "0 ms 1 h 00 min 2 h 00 min 3 h 00 min"],
  // Each leg counts from its own begin.
  [[2000, 2000], "leg 1 1.0 s leg 2 1.0 s 2.0 s"],
  [[], ""],
])("of %j milliseconds the marks are %s", (lengths, expected) => {
  expect(
    ticksOf(spans(...lengths), wholeAxis, 5)
      .map((t) => t.text)
      .join(" "),
  ).toBe(expected);
});

test("in a closer view there are marks in between, at their places", () => {
  const window = zoomed(wholeAxis, 4, 0.5);
  expect(window).toEqual({ from: 0.375, to: 0.625 });
  const ticks = ticksOf(spans(1600), window, 5);
  expect(ticks.map((t) => t.text)).toEqual(["600 ms", "700 ms", "800 ms", "900 ms", "1.0 s"]);
  expect(ticks[2]?.place).toBeCloseTo(0.5);
});

test("the view stays on the axis, and no closer than it can be read", () => {
  expect(zoomed(wholeAxis, 0.5, 0.3)).toEqual(wholeAxis);
  expect(moved({ from: 0.2, to: 0.4 }, -5)).toEqual({ from: 0, to: 0.2 });
  expect(moved({ from: 0.7, to: 0.9 }, 5).to).toBeCloseTo(1);
  const close = zoomed(wholeAxis, 1e9, 1);
  expect(close.to - close.from).toBeCloseTo(1 / 5000);
  expect(inWindow(1, close)).toBeCloseTo(1);
});
