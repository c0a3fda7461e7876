import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { ChainDetail } from "../../core/api/types";
import { typed } from "../../core/format";
import { inView, type Chosen } from "../../core/graph/instances";
import { gateSentence, assumedSuccess, rehearsalOrder, type Assumptions } from "../../core/rehearsals/rehearsal";
import type { CanvasView } from "../canvas/CanvasView";
import { ChainCanvas } from "../canvas/ChainCanvas";
import type { Given } from "../run/ParameterFields";
import { RehearsalPanel } from "./RehearsalPanel";
import { TraceList } from "./TraceList";
import { addressOf } from "../../core/stepPath";
import { rehearsalQuery } from "../../queries/design";

/** Plays the chain with made-up outcomes while one chooses them; nothing of it is done. */
export function RehearsalView({ chain }: { chain: ChainDetail }) {
  const [params, setParams] = useState<Given>(() =>
    Object.fromEntries(
      chain.params.map((p) => [
        p.name,
        typed(p.default) || (p.type === "timestamp" ? new Date().toISOString().slice(0, 10) : ""),
      ]),
    ),
  );
  const [assumptions, setAssumptions] = useState<Assumptions>(new Map());
  const [chosen, setChosen] = useState<string | null>(null);
  const [picked, setPicked] = useState<Chosen>(new Map());
  const order = useMemo(() => rehearsalOrder(params, assumptions), [params, assumptions]);
  const { data, error } = useQuery(rehearsalQuery(chain.name, chain.release, null, order));

  const choose = (path: string) => setChosen(path);
  const pick = (container: string, index: number) => setPicked((before) => new Map(before).set(container, index));
  const view: CanvasView | null = data
    ? {
        ...inView(data.run, picked),
        chosen,
        choose,
        pick,
        gateKey: JSON.stringify(order),
        gateWhy: (gate) => Promise.resolve(gateSentence(data, gate)),
      }
    : null;
  return (
    <div className="runbody">
      <div className="runleft">
        <ChainCanvas graph={chain.graph} view={view} />
        <TraceList trace={data?.trace ?? []} chosen={chosen} choose={choose} />
      </div>
      <RehearsalPanel
        chain={chain}
        result={data ?? null}
        refused={error?.message ?? null}
        params={params}
        setParams={setParams}
        chosen={chosen}
        assumption={(chosen !== null && assumptions.get(addressOf(chosen))) || assumedSuccess}
        setAssumption={(assumption) =>
          chosen !== null && setAssumptions((before) => new Map(before).set(addressOf(chosen), assumption))
        }
        assumed={[...assumptions]
          .filter(([, assumption]) => assumption.outcome !== "succeeds" || assumption.outputs.trim() !== "")
          .map(([address]) => address)}
        choose={choose}
        reset={() => setAssumptions(new Map())}
      />
    </div>
  );
}
