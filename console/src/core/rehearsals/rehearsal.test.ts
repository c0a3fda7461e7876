import { describe, expect, it } from "vitest";
import type { RehearsalResult } from "../api/types";
import { assumptionFor, gateSentence, rehearsalOrder, type Assumption } from "./rehearsal";
import { addressOf } from "../stepPath";

describe("what is asked of a rehearsal", () => {
  it("names failing steps and outputs by address", () => {
    const assumptions = new Map([
      ["load", { outcome: "fails", outputs: {} }],
      [
        "depots/ask",
        {
          outcome: "first",
          outputs: { state: { type: "string", text: "ready" }, rows: { type: "any", text: "[1, 2]" } },
        },
      ],
      ["fine", { outcome: "succeeds", outputs: {} }],
      ["typing", { outcome: "succeeds", outputs: { count: { type: "int", text: "1x" } } }],
    ] as [string, Assumption][]);
    const parameters = [
      { name: "day", type: "timestamp" },
      { name: "typing", type: "int" },
      { name: "absent", type: "string" },
    ];
    expect(rehearsalOrder(parameters, { day: "2026-11-22", typing: "1x" }, assumptions)).toEqual({
      params: { day: "2026-11-22" },
      fail: ["load", "depots/ask:1"],
      give: { "depots/ask.state": "ready", "depots/ask.rows": [1, 2] },
      known: null,
    });
  });
  it("chooses for one iteration what differs from all of them", () => {
    const [all, one] = [
      { outcome: "fails", outputs: {} },
      { outcome: "succeeds", outputs: {} },
    ] as const;
    const assumptions = new Map<string, Assumption>([
      ["depots/ask", all],
      ["depots[2]/ask", one],
    ]);
    expect(assumptionFor(assumptions, "depots[1]/ask")).toBe(all);
    expect(assumptionFor(assumptions, "depots[2]/ask")).toBe(one);
    expect(assumptionFor(assumptions, "other").outcome).toBe("succeeds");
    expect(rehearsalOrder([], {}, new Map([["depots[2]/ask", all]]), 7)).toEqual({
      params: {},
      fail: ["depots[2]/ask"],
      give: {},
      known: 7,
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
