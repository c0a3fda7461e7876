import { describe, expect, it } from "vitest";
import type { RehearsalResult } from "../api/types";
import { gateSentence, rehearsalOrder } from "./rehearsal";
import { addressOf } from "../stepPath";

describe("what is asked of a rehearsal", () => {
  it("names failing steps and outputs by address", () => {
    const assumptions = new Map([
      ["load", { outcome: "fails", outputs: "" }],
      ["depots/ask", { outcome: "first", outputs: "state = ready\nrows = [1, 2]" }],
      ["fine", { outcome: "succeeds", outputs: "" }],
      ["typing", { outcome: "succeeds", outputs: "half a li" }],
    ] as const);
    expect(rehearsalOrder({ day: "2026-11-22", empty: "" }, assumptions)).toEqual({
      params: { day: "2026-11-22" },
      fail: ["load", "depots/ask:1"],
      give: { "depots/ask.state": "ready", "depots/ask.rows": [1, 2] },
    });
  });
  it("takes the numbers out of paths", () => expect(addressOf("depots[2]/until[1]/ask")).toBe("depots/until/ask"));
  it("finds why a gate was decided", () => {
    const trace = [
      { what: "gate", path: "depots[0]/a → b", text: "opens (on success)", outcome: "open" },
      { what: "gate", path: "depots[1]/a → b", text: "stays shut (on success)", outcome: "shut" },
    ];
    const result = { trace } as RehearsalResult;
    expect(gateSentence(result, { scope: "depots", from: "a", to: "b" })).toBe("“a” → “b” stays shut (on success)");
    expect(gateSentence(result, { scope: "", from: "x", to: "y" })).toContain("undecided");
  });
});
