/** What a check of data came to, as its step gives it. */
export interface CheckResult {
  name: string;
  /** The state whose mark and colour it bears. */
  state: "succeeded" | "failed" | "warned";
  /** How many rows do not pass. */
  failing: number;
  /** What is wrong, in a sentence; empty when it passes. */
  says: string;
}

const states = { passed: "succeeded", failed: "failed", warned: "warned" } as const;

const isMap = (value: unknown): value is Record<string, unknown> =>
  value !== null && typeof value === "object" && !Array.isArray(value);

/** The checks in the outputs of a step: those that fail first, then the warnings; none for other outputs. */
export function checksOf(outputs: unknown): CheckResult[] {
  if (!isMap(outputs) || !isMap(outputs.checks)) return [];
  const order = ["failed", "warned", "succeeded"];
  return Object.entries(outputs.checks)
    .flatMap(([name, check]) => {
      const state = isMap(check) ? states[check.outcome as keyof typeof states] : undefined;
      return isMap(check) && state
        ? [
            {
              name,
              state,
              failing: typeof check.failing === "number" ? check.failing : 0,
              says: typeof check.says === "string" ? check.says : "",
            },
          ]
        : [];
    })
    .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
}
