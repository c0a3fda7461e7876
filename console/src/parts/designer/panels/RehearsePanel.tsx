import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { defaultsToday, parametersOf } from "../../../core/designer/parameters";
import type { DesignState } from "../../../core/designer/DesignStore";
import { inView, type Chosen } from "../../../core/graph/instances";
import { gateSentence, assumedSuccess, rehearsalOrder } from "../../../core/rehearsals/rehearsal";
import type { CanvasView } from "../../canvas/CanvasView";
import type { Given } from "../../../core/values/typed";
import { RehearsalPanel } from "../../rehearsal/RehearsalPanel";
import { useAssumptions } from "../../rehearsal/useAssumptions";
import { TraceList } from "../../rehearsal/TraceList";
import { useDesigning } from "../useDesign";
import { addressOf } from "../../../core/stepPath";
import { rehearsalQuery } from "../../../queries/design";

/** Rehearses the draft as it is: gates open and shut on the canvas while one chooses. */
export function useRehearsal(state: DesignState, on: boolean) {
  const { store } = useDesigning();
  const params = useMemo(() => parametersOf(state.design), [state.design]);
  const [given, setGiven] = useState<Given>({});
  const [chosen, setChosen] = useState<string | null>(null);
  const { assumptions, known, set: setAssumption, panel: choices } = useAssumptions(store.chain, chosen);
  const [picked, setPicked] = useState<Chosen>(new Map());
  // What was typed stays as long as the parameter is of the same type.
  const types = useRef(new Map<string, string>());
  useEffect(() => {
    const before = types.current;
    const same = (p: { name: string; type: string }) => before.get(p.name) === p.type;
    setGiven((old) => {
      const kept = Object.entries(old).filter(([name]) => params.some((p) => p.name === name && same(p)));
      return { ...defaultsToday(params.filter((p) => !same(p))), ...Object.fromEntries(kept) };
    });
    types.current = new Map(params.map((p) => [p.name, p.type]));
  }, [params]);
  const order = useMemo(() => rehearsalOrder(params, given, assumptions, known), [params, given, assumptions, known]);
  const text = state.design.file.text;
  const { data, error } = useQuery({
    ...rehearsalQuery(store.chain, null, on ? text : "", order),
    enabled: on,
  });
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
      kind={chosen === null ? undefined : state.design.steps.get(addressOf(chosen))?.kind}
      {...choices}
      choose={choose}
    />
  );
  const trace = <TraceList trace={data?.trace ?? []} chosen={chosen} choose={choose} />;
  return { view, panel, trace };
}
