import { describe, expect, it } from "vitest";
import type { MomentInfo } from "../api/types";
import { indexOf, wordsOf } from "./moments";

const moment = (seq: number, ...texts: string[]): MomentInfo => ({
  seq,
  at: "2026-11-22T02:30:00Z",
  leg: 1,
  lines: texts.map((text) => ({ what: "step", path: "load", text, outcome: null })),
});

describe("moments of a run", () => {
  it("are found by the number of a decision, also one that is not listed", () => {
    const all = [1, 4, 9].map((seq) => moment(seq));
    expect([0, 1, 3, 4, 8, 9, 99].map((seq) => indexOf(all, seq))).toEqual([0, 0, 0, 1, 1, 2, 2]);
    expect(indexOf([], 3)).toBe(0);
  });

  it("say what was decided first, and how much more", () => {
    expect(wordsOf(moment(1, "begins"))).toBe("load begins");
    expect(wordsOf(moment(1, "succeeded", "x", "y"))).toBe("load succeeded, and 2 more");
    expect(wordsOf({ ...moment(1, "begins"), lines: [{ what: "run", path: "", text: "begins", outcome: null }] })).toBe(
      "the run begins",
    );
    expect(wordsOf(moment(1))).toBe("nothing that is told");
  });
});
