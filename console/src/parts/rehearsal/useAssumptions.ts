import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  assumptionFor,
  isAssumed,
  assumedSuccess,
  type Assumption,
  type Assumptions,
} from "../../core/rehearsals/rehearsal";
import { addressOf } from "../../core/stepPath";
import { recentRunsQuery } from "../../queries/runs";

/** What is chosen in a rehearsal, for steps of all iterations or of one, and the run whose data it is played with. */
export function useAssumptions(chain: string, chosen: string | null) {
  const [assumptions, setAssumptions] = useState<Assumptions>(new Map());
  const [asked, setAsked] = useState(false);
  const [known, setKnown] = useState<number | null>(null);
  const { data: runs } = useQuery(recentRunsQuery(chain));
  const set = (path: string, assumption: Assumption) =>
    setAssumptions((before) => new Map(before).set(path, assumption));
  const single = chosen !== null && (asked || assumptions.has(chosen)) && addressOf(chosen) !== chosen;
  return {
    assumptions,
    known,
    set,
    panel: {
      assumption: chosen === null ? assumedSuccess : assumptionFor(assumptions, chosen),
      setAssumption: (assumption: Assumption) =>
        chosen !== null && set(single ? chosen : addressOf(chosen), assumption),
      single,
      setSingle: (one: boolean) => {
        setAsked(one);
        if (!one && chosen !== null)
          setAssumptions((before) => new Map([...before].filter(([path]) => path !== chosen)));
      },
      runs: (runs ?? []).filter((r) => r.state !== "running"),
      known,
      setKnown,
      assumed: [...assumptions].filter(([, a]) => isAssumed(a)).map(([path]) => path),
      reset: () => setAssumptions(new Map()),
    },
  };
}
