import { expect, test } from "vitest";
import { extentOf, hasAfter, hasBefore, linesIn, nothingRead, takePage, type LogWindow } from "./logWindow";

// A log of lines with ten bytes each.
const total = 100;
const page = (from: number, next: number, size = total * 10, running = false) => ({
  text: Array.from({ length: (next - from) / 10 }, (_, i) => `line ${String(from / 10 + i).padStart(4)}\n`).join(""),
  from,
  next,
  size,
  running,
  ended: !running,
});
const numbers = (window: LogWindow) => window.parts.flatMap((p) => p.lines.map((l) => Number(l.text.slice(5))));

test("a log is gone through both ways from where it was opened, and what is far is let go", () => {
  let window = takePage(nothingRead, page(500, 510), "anew");
  expect([hasBefore(window), hasAfter(window), linesIn(window)]).toEqual([true, true, 1]);
  for (let at = 510; at < 1000; at += 10) window = takePage(window, page(at, at + 10), "after");
  expect(numbers(window)).toEqual([88, 89, 90, 91, 92, 93, 94, 95, 96, 97, 98, 99]);
  expect(hasAfter(window)).toBe(false);
  for (let at = 880; at > 0; at -= 10) window = takePage(window, page(at - 10, at), "before");
  expect(numbers(window)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
  expect([hasBefore(window), hasAfter(window)]).toEqual([false, true]);
});

test("a page that does not fit any more is left out", () => {
  const window = takePage(nothingRead, page(500, 520), "anew");
  expect(takePage(window, page(100, 110), "before")).toBe(window);
  expect(takePage(window, page(900, 910), "after")).toBe(window);
});

test("a log that grows is read further, and an end is noticed", () => {
  let window = takePage(nothingRead, page(0, 0, 0, true), "anew");
  expect([linesIn(window), window.running, hasAfter(window)]).toEqual([0, true, false]);
  window = takePage(window, page(0, 30, 30, true), "after");
  expect(extentOf(window)).toBe("3 lines");
  window = takePage(window, page(30, 30, 30, false), "after");
  expect([linesIn(window), window.running]).toEqual([3, false]);
});

test("the last line may have no end, and a line without a level continues the one before", () => {
  const text = "2026-11-22T02:30:02.000Z err  line 6\n";
  let window = takePage(nothingRead, { ...page(0, 0), text, next: 38, size: 50 }, "anew");
  window = takePage(window, { ...page(0, 0), text: "  in column 2", from: 38, next: 50, size: 50 }, "after");
  expect(window.parts.flatMap((p) => p.lines).map((l) => [l.level, l.text])).toEqual([
    ["err", "line 6"],
    ["err", "  in column 2"],
  ]);
});

test("how much is at hand is said", () => {
  expect(extentOf(takePage(nothingRead, page(0, 10, 10), "anew"))).toBe("1 line");
  expect(extentOf(takePage(nothingRead, page(500, 520), "anew"))).toBe("50 to 52 % of 1 kB");
  expect(extentOf(takePage(nothingRead, { ...page(0, 10), size: 64_000_000 }, "anew"))).toBe("0 to 0 % of 64.0 MB");
});
