/** Seconds of a duration as files write it: `300ms`, `5s`, `10m`, `2h`, `1d`; null for others. */
export function seconds(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)\s*(ms|s|m|h|d)$/.exec(text.trim());
  if (!match) return null;
  return Number(match[1]) * ({ ms: 0.001, s: 1, m: 60, h: 3600, d: 86400 }[match[2] as "s"] ?? 1);
}

/** Whether a text is a duration as files write it, `90s` or `1h30m`. */
export const isDuration = (text: string) => /^(?:\d+(?:\.\d+)?(?:ms|s|m|h|d))+$/.test(text.trim());

/** A duration in its shortest form, `90s` as `1m30s`; a text that is none as it is. */
export function shortest(text: string): string {
  if (!isDuration(text)) return text;
  const parts = [...text.matchAll(/(\d+(?:\.\d+)?)(ms|s|m|h|d)/g)];
  let left = Math.round(parts.reduce((sum, [part]) => sum + (seconds(part) ?? 0), 0) * 1000);
  let short = "";
  for (const [unit, ms] of [
    ["d", 86_400_000],
    ["h", 3_600_000],
    ["m", 60_000],
    ["s", 1000],
    ["ms", 1],
  ] as const) {
    if (left >= ms) short += `${String(Math.floor(left / ms))}${unit}`;
    left %= ms;
  }
  return short === "" ? "0s" : short;
}

/** A length of time in words. */
export function inWords(total: number): string {
  const of = (n: number, unit: string) => `${String(Number(n.toFixed(1)))} ${unit}${n === 1 ? "" : "s"}`;
  if (total < 1) return of(Math.round(total * 1000), "millisecond");
  if (total < 120) return of(total, "second");
  if (total < 7200) return of(total / 60, "minute");
  return total < 172_800 ? of(total / 3600, "hour") : of(total / 86_400, "day");
}

const list = (words: string[]) =>
  words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1) ?? ""}`;

export interface RetryRule {
  limit?: unknown;
  wait?: unknown;
  factor?: unknown;
  max?: unknown;
  jitter?: unknown;
  when?: unknown;
}

/** What a retry rule will do: “tries up to 3 more times, after 5, 10 and 20 seconds”. */
export function retrySentence(rule: RetryRule | null): string {
  if (!rule) return "It is tried once.";
  const limit = Number(rule.limit ?? 1);
  if (!Number.isInteger(limit) || limit < 0) return "How often is not a whole number yet.";
  if (limit === 0) return "It is tried once.";
  const wait = seconds(String((rule.wait as string | undefined) ?? "0s"));
  const factor = Number(rule.factor ?? 1);
  const max = rule.max === undefined || rule.max === null ? null : seconds(String(rule.max as string));
  const times = limit === 1 ? "once more" : `up to ${String(limit)} more times`;
  const only = rule.when === undefined || rule.when === null ? "" : ", as long as the condition holds";
  if (wait === null) return `It is tried ${times}${only}; the wait is not a duration yet.`;
  if (wait === 0) return `It is tried ${times}, at once${only}.`;
  const waits = Array.from({ length: Math.min(limit, 4) }, (_, i) => Math.min(wait * factor ** i, max ?? Infinity));
  const steady = waits.every((w) => w === waits[0]);
  const jitter =
    Number(rule.jitter ?? 0) > 0 ? ` (give or take ${String(Math.round(Number(rule.jitter) * 100))} %)` : "";
  if (steady) return `It is tried ${times}, ${limit === 1 ? "" : "each "}after ${inWords(wait)}${jitter}${only}.`;
  // One unit for all, where they share it.
  const words = waits.map(inWords);
  const unit = words[0]?.split(" ")[1]?.replace(/s$/, "") ?? "";
  const shared = words.every((w) => w.split(" ")[1]?.startsWith(unit));
  const named = shared
    ? list(waits.map((w) => inWords(w).split(" ")[0] ?? "").concat(limit > 4 ? ["so on"] : [])) + ` ${unit}s`
    : list(words.concat(limit > 4 ? ["so on"] : []));
  return `It is tried ${times}, after ${named}${jitter}${only}.`;
}

/** When a step starts, after its join and the number of its gates. */
export function joinSentence(join: string, gates: number): string {
  if (gates === 0) return "It starts at once: no gate leads to it.";
  if (gates === 1) return "It starts when its gate opens.";
  switch (join) {
    case "all":
      return `It starts when ${gates === 2 ? "both" : `all ${String(gates)}`} gates have opened; one that shuts skips it.`;
    case "any":
      return "It starts as soon as one of its gates opens.";
    case "some":
      return "It starts once all its gates are decided and at least one is open.";
    default:
      return `It starts as soon as ${join} of its ${String(gates)} gates have opened.`;
  }
}

/** What a gate asks for, in a sentence. */
export function gateSentence(gate: {
  from: string;
  to: string;
  on: string;
  condition: string | null;
  either: boolean;
  branch: boolean;
  isElse: boolean;
}): string {
  const outcome: Record<string, string> = {
    success: "succeeds",
    failure: "fails",
    completion: "succeeds or fails",
    skipped: "is skipped",
    always: "has ended, however it ended",
    "failure, skipped": "fails or is skipped",
    "success, skipped": "succeeds or is skipped",
  };
  const after = `“${gate.from}” ${outcome[gate.on] ?? "ends"}`;
  if (gate.isElse) return `It opens when ${after} and no gate with a condition beside it has opened.`;
  if (gate.condition === null) return `It opens when ${after}.`;
  if (gate.branch) return `It opens when “${gate.from}” takes the branch “${gate.condition}”.`;
  return gate.either
    ? `It opens when ${after}, or when ${gate.condition}.`
    : `It opens when ${after} and ${gate.condition}.`;
}

/** What happens to the run when a step fails for good. */
export const ifFailsSentences: Record<string, string> = {
  fail: "A failure for good makes the run fail.",
  absorb: "A failure is dealt with and does not count against the run.",
  pause: "A failure pauses the run, and a person decides.",
};

export const onCrashSentences: Record<string, string> = {
  redo: "After a crash of the service it runs again.",
  pause: "After a crash of the service the run pauses, and a person decides.",
  fail: "After a crash of the service it fails.",
};

export const onResumeSentences: Record<string, string> = {
  keep: "A resume keeps its success.",
  redo: "Each resume runs it again.",
};

const verdicts: Readonly<Record<string, string>> = {
  proceed: "the step starts",
  skip: "the step is skipped",
  fail: "the step fails",
  stop: "the run is stopped",
  accept: "the result is accepted",
  redo: "another attempt is made",
  warn: "the result is accepted with a warning",
  hold: "the step is held and looks again",
};

/** Sentences about words of the file that one chooses from, by the setting and the word. */
const choices: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  verdict: verdicts,
  then: verdicts,
};

/** A word of the file that one chooses, with what it means; the word alone where it says enough. */
export const choiceSentence = (setting: string, word: string) =>
  choices[setting]?.[word] === undefined ? word : `${word}: ${choices[setting][word]}`;

/** A guard or expect rule in a sentence. */
export function ruleSentence(rule: Record<string, unknown>): string {
  const verdict = String(rule.verdict ?? "…");
  if (verdict !== "hold") return verdicts[verdict] ?? "…";
  const again =
    rule.at !== undefined
      ? `looks again at ${String(rule.at as string)}${rule.zone === undefined ? "" : ` in ${String(rule.zone as string)}`}`
      : `looks again every ${seconds(String(rule.recheck ?? "")) === null ? "…" : inWords(seconds(String(rule.recheck)) ?? 0)}`;
  const limit =
    rule.limit === undefined
      ? ""
      : /^\d+$/.test(String(rule.limit as string))
        ? `, ${String(rule.limit as string)} times at most`
        : `, for ${String(rule.limit as string)} at most`;
  return `the step is held and ${again}${limit}; then ${verdicts[String(rule.then ?? "fail")] ?? "…"}`;
}
