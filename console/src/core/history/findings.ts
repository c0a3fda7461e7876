import type { HistoryInfo, LegInfo } from "../api/types";
import { releaseName, took } from "../format";
import { goodLength, stepOf } from "./legs";
import { median } from "./statistics";

/** Something that is not as it was. */
export interface Finding {
  /** The step's address; empty for the chain as a whole. */
  address: string;
  what: "slower" | "quicker" | "fails" | "rejects";
  /** The first run that it shows in. */
  run: number;
  text: string;
}

/** So many runs are "lately", and so many before them "before". */
const lately = 5;
const before = 25;

/** A change counts from this factor on, and from so many milliseconds or rows on. */
const factor = 1.5;
const leastMs = 500;
const leastRows = 10;

const value = (legs: readonly LegInfo[], of: (leg: LegInfo) => number | null | undefined) =>
  legs.flatMap((leg) => {
    const n = of(leg);
    return n == null ? [] : [n];
  });

/** What got slower, began to fail, or rejects more rows than it did; what weighs most first. */
export function findings({ addresses, legs }: HistoryInfo): Finding[] {
  if (legs.length < 2 * lately) return [];
  const [now, then] = [legs.slice(0, lately), legs.slice(lately, lately + before)];
  const found: (Finding & { weight: number })[] = [];
  const compare = (address: string) => {
    const of = (leg: LegInfo) => goodLength(leg, address === "" ? undefined : address);
    const [was, is] = [median(value(then, of)), median(value(now, of))];
    if (was === undefined || is === undefined || Math.abs(is - was) < leastMs) return;
    const slower = is > was * factor;
    if (!slower && is * factor > was) return;
    const since = firstOf(legs, (leg) => {
      const n = of(leg);
      return n !== null && (slower ? n > (was + is) / 2 : n < (was + is) / 2);
    });
    found.push({
      address,
      what: slower ? "slower" : "quicker",
      run: since.run,
      text: `takes ${took(is)}, it took ${took(was)}; since run ${String(since.run)}${releaseOf(since)}`,
      weight: slower ? is - was : 0,
    });
  };
  compare("");
  for (const address of addresses) {
    compare(address);
    const fails = (leg: LegInfo) => stepOf(leg, address)?.state === "failed";
    const [bad, old] = [now.filter(fails).length, then.filter(fails).length];
    if (bad > 0 && bad / now.length > 2 * (old / then.length) && !inner(addresses, address, now)) {
      const since = firstOf(legs, fails);
      found.push({
        address,
        what: "fails",
        run: since.run,
        text: `failed in ${String(bad)} of the last ${String(now.length)} runs, in ${String(old)} of the ${String(then.length)} before; since run ${String(since.run)}${releaseOf(since)}`,
        weight: 1e12 + bad,
      });
    }
    const rejected = (leg: LegInfo) => {
      const n = stepOf(leg, address)?.rejected;
      return n == null ? null : Number(n);
    };
    const [few, many] = [median(value(then, rejected)), Math.max(0, ...value(now.slice(0, 1), rejected))];
    if (few !== undefined && many - few >= leastRows && many > few * 2)
      found.push({
        address,
        what: "rejects",
        run: now[0]?.run ?? 0,
        text: `rejected ${many.toLocaleString("en")} rows in the latest run, ${few.toLocaleString("en")} were usual`,
        weight: 1e11 + many,
      });
  }
  return found
    .toSorted((a, b) => b.weight - a.weight)
    .map(({ address, what, run, text }) => ({ address, what, run, text }));
}

// What is inside says why a container failed.
const inner = (addresses: readonly string[], address: string, legs: readonly LegInfo[]) =>
  addresses.some((a) => a.startsWith(`${address}/`) && legs.some((leg) => stepOf(leg, a)?.state === "failed"));

/** The earliest of the latest legs in a row that something holds for; gaps of one are passed over. */
function firstOf(legs: readonly LegInfo[], holds: (leg: LegInfo) => boolean): LegInfo {
  let [found, gap] = [legs.find(holds) ?? (legs[0] as LegInfo), 0];
  for (const leg of legs.slice(legs.indexOf(found))) {
    if (holds(leg)) [found, gap] = [leg, 0];
    else if (++gap > 1) break;
  }
  return found;
}

const releaseOf = (leg: LegInfo) => `, ${releaseName(leg.number)}`;
