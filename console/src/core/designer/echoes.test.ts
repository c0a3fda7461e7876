import { describe, expect, it } from "vitest";
import { Echoes } from "./echoes";

const sent = (...texts: string[]) => {
  const echoes = new Echoes();
  for (const text of texts) echoes.send(text);
  return echoes;
};

describe("what a field has sent", () => {
  it("comes back late, and is not shown while something newer is on its way", () => {
    const echoes = sent("steps.look.exit_code", "steps.look.exit_code == 0 ");
    expect(echoes.isStale("steps.look.exit_code")).toBe(true);
    expect(echoes.isStale("steps.look.exit_code == 0")).toBe(false);
  });

  it("is passed over when only the last of it comes back", () => {
    const echoes = sent("a", "b", "c");
    expect(echoes.isStale("c")).toBe(false);
    // Undone.
    expect(echoes.isStale("b")).toBe(false);
  });

  it("gives way to what comes from elsewhere", () => {
    const echoes = sent("a", "b");
    expect(echoes.isStale("of somebody else")).toBe(false);
    expect(echoes.isStale("a")).toBe(false);
  });

  it("may be what it was before", () => {
    const echoes = sent("a", "b", "a");
    expect(echoes.isStale("a")).toBe(false);
  });
});
