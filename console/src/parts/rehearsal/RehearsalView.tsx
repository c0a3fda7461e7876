import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { ChainDetail } from "../../core/api/types";
import { defaultsToday } from "../../core/designer/parameters";
import { kindOf } from "../../core/graph/bands";
import { inView, type Chosen } from "../../core/graph/instances";
import { gateSentence, rehearsalOrder } from "../../core/rehearsals/rehearsal";
import type { CanvasView } from "../canvas/CanvasView";
import { ChainCanvas } from "../canvas/ChainCanvas";
import type { Given } from "../../core/values/typed";
import { RehearsalPanel } from "./RehearsalPanel";
import { useAssumptions } from "./useAssumptions";
import { TraceList } from "./TraceList";
import { addressOf } from "../../core/stepPath";
import { rehearsalQuery } from "../../queries/design";

/** Plays the chain with made-up outcomes while one chooses them; nothing of it is done. */
export function RehearsalView({ chain }: { chain: ChainDetail }) {
  const [params, setParams] = useState<Given>(() => defaultsToday(chain.params));
  const [chosen, setChosen] = useState<string | null>(null);
  const { assumptions, known, panel } = useAssumptions(chain.name, chosen);
  const [picked, setPicked] = useState<Chosen>(new Map());
  const order = useMemo(
    () => rehearsalOrder(chain.params, params, assumptions, known),
    [chain, params, assumptions, known],
  );
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
        kind={chosen === null ? undefined : kindOf(chain.graph, addressOf(chosen))}
        {...panel}
        choose={choose}
      />
    </div>
  );
}
