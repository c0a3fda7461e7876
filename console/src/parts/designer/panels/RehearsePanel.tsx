import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { parametersOf } from "../../../core/designer/parameters";
import type { DesignState } from "../../../core/designer/DesignStore";
import { typed } from "../../../core/format";
import { inView, type Chosen } from "../../../core/graph/instances";
import { gateSentence, assumedSuccess, rehearsalOrder, type Assumptions } from "../../../core/rehearsals/rehearsal";
import type { CanvasView } from "../../canvas/CanvasView";
import type { Given } from "../../run/ParameterFields";
import { RehearsalPanel } from "../../rehearsal/RehearsalPanel";
import { TraceList } from "../../rehearsal/TraceList";
import { useDesigning } from "../useDesign";
import { addressOf } from "../../../core/stepPath";
import { rehearsalQuery } from "../../../queries/design";

/** Rehearses the draft as it is: gates open and shut on the canvas while one chooses. */
export function useRehearsal(state: DesignState, on: boolean) {
  const { store } = useDesigning();
  const params = useMemo(() => parametersOf(state.design), [state.design]);
  const [given, setGiven] = useState<Given>({});
  const [assumptions, setAssumptions] = useState<Assumptions>(new Map());
  const [chosen, setChosen] = useState<string | null>(null);
  const [picked, setPicked] = useState<Chosen>(new Map());
  // What was typed stays as long as the parameter is of the same type.
  const types = useRef(new Map<string, string>());
  useEffect(() => {
    const before = types.current;
    const same = (p: { name: string; type: string }) => before.get(p.name) === p.type;
    setGiven((old) =>
      Object.fromEntries(
        params.map((p) => [
          p.name,
          (same(p) ? old[p.name] : undefined) ??
            (typed(p.default) || (p.type === "timestamp" ? new Date().toISOString().slice(0, 10) : "")),
        ]),
      ),
    );
    types.current = new Map(params.map((p) => [p.name, p.type]));
  }, [params]);
  const order = useMemo(() => rehearsalOrder(given, assumptions), [given, assumptions]);
  const text = state.design.file.text;
  const { data, error } = useQuery({
    ...rehearsalQuery(store.chain, null, on ? text : "", order),
    enabled: on,
  });
  const setAssumption = (address: string, assumption: Assumptions extends ReadonlyMap<string, infer W> ? W : never) =>
    setAssumptions((before) => new Map(before).set(address, assumption));
  const choose = (path: string) => {
    setChosen(path);
    store.select({ steps: [addressOf(path)].filter((a) => store.state.design.steps.has(a)), gate: null });
  };
  const view: CanvasView | null =
    on && data
      ? {
          ...inView(data.run, picked),
          chosen,
          choose,
          pick: (container, index) => setPicked((before) => new Map(before).set(container, index)),
          gateKey: JSON.stringify(order),
          gateWhy: (gate) => Promise.resolve(gateSentence(data, gate)),
          flip: (address) =>
            setAssumption(address, {
              ...(assumptions.get(address) ?? assumedSuccess),
              outcome: (assumptions.get(address) ?? assumedSuccess).outcome === "succeeds" ? "fails" : "succeeds",
            }),
        }
      : null;
  const panel = (
    <RehearsalPanel
      chain={{ params }}
      result={data ?? null}
      refused={error?.message ?? null}
      params={given}
      setParams={setGiven}
      chosen={chosen}
      assumption={(chosen !== null && assumptions.get(addressOf(chosen))) || assumedSuccess}
      setAssumption={(assumption) => chosen !== null && setAssumption(addressOf(chosen), assumption)}
      assumed={[...assumptions].filter(([, w]) => w.outcome !== "succeeds" || w.outputs.trim() !== "").map(([a]) => a)}
      choose={choose}
      reset={() => setAssumptions(new Map())}
    />
  );
  const trace = <TraceList trace={data?.trace ?? []} chosen={chosen} choose={choose} />;
  return { view, panel, trace };
}
