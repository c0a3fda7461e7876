import { useSearch } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { KindsInfo, PartChangeInfo, ProblemInfo, SurroundingsInfo } from "../../core/api/types";
import { align, placeBeside, placesOfScope } from "../../core/designer/arrange";
import type { DesignStore } from "../../core/designer/DesignStore";
import { addStep, place } from "../../core/designer/operations";
import type { Box } from "../../core/graph/flow";
import type { EditView } from "../canvas/EditView";
import { ChainInspector } from "./ChainInspector";
import { DesignCanvas } from "./DesignCanvas";
import { DesignDialogs, type Dialog } from "./DesignDialogs";
import { DesignHead, type Mode } from "./DesignHead";
import { ConflictDialog, focusCanvas } from "./Dialogs";
import { GateInspector } from "./GateInspector";
import { LowerTabs } from "./LowerTabs";
import { Palette } from "./Palette";
import { useRehearsal } from "./RehearsePanel";
import { StepInspector } from "./StepInspector";
import { useTry } from "./TryPanel";
import { DesignContext, useDesign, type Designing } from "./useDesign";
import { useCanvasKeys } from "./useCanvasKeys";
import { useSight } from "./useSight";
import { scopeOf } from "../../core/stepPath";
import { worstOf, neverOf, changesOf, sayChosen } from "./marks";

/** The designer: palette, canvas, inspector, and what stands below. */
export function Workbench({
  store,
  kinds,
  beside,
}: {
  store: DesignStore;
  kinds: KindsInfo;
  beside: SurroundingsInfo;
}) {
  const [dialog, setDialog] = useState<Dialog | null>(null);
  const [pastRun, setPastRun] = useState<number | null>(null);
  const rename = useCallback(
    (what: string, scope: string, of: string) => setDialog({ name: "rename", what, scope, of }),
    [],
  );
  const designing = useMemo<Designing>(
    () => ({ store, kinds, beside, pastRun, rename }),
    [store, kinds, beside, pastRun, rename],
  );
  return (
    <DesignContext value={designing}>
      <Bench dialog={dialog} setDialog={setDialog} pastRun={pastRun} setPastRun={setPastRun} designing={designing} />
    </DesignContext>
  );
}

function Bench({
  dialog,
  setDialog,
  pastRun,
  setPastRun,
  designing,
}: {
  dialog: Dialog | null;
  setDialog: (d: Dialog | null) => void;
  pastRun: number | null;
  setPastRun: (run: number | null) => void;
  designing: Designing;
}) {
  const { store, kinds } = designing;
  const { step: wanted } = useSearch({ from: "/chains/$name/design" });
  const state = useDesign(store);
  const sight = useSight();
  const { design, selection } = state;
  const [mode, setMode] = useState<Mode>("design");
  const [tab, setTab] = useState<string>("problems");
  const [low, setLow] = useState(false);
  const [lead, setLead] = useState<{ offset: number; count: number } | null>(null);
  const [pauses, setPauses] = useState<ReadonlySet<string>>(new Set());
  const [changes, setChanges] = useState<PartChangeInfo[] | null>(null);
  const boxes = useRef<Box[]>([]);
  const drawn = useCallback((all: Box[]) => void (boxes.current = all), []);
  const inspector = useRef<HTMLElement>(null);
  const rehearsal = useRehearsal(state, mode === "rehearse");
  const trying = useTry(state, mode === "try", pauses);
  const view = mode === "rehearse" ? rehearsal.view : mode === "try" ? trying.view : null;
  const problems = useMemo(() => worstOf(state), [state]);
  const never = useMemo(() => neverOf(state), [state]);
  const edit = useMemo<EditView>(
    () => ({
      chosen: new Set(selection.steps),
      chosenGate: selection.gate,
      problems,
      never,
      folded: state.folded,
      fold: (a, f) => store.fold(a, f),
      chooseGate: (scope, index) => store.select({ steps: [], gate: { scope, index } }),
      pauses,
      changes: changesOf(changes),
    }),
    [selection, problems, never, state, store, pauses, changes],
  );

  const step = selection.steps.length === 1 ? design.steps.get(selection.steps[0] ?? "") : undefined;
  const gate = selection.gate ? design.gate(selection.gate.scope, selection.gate.index) : undefined;
  const scope = step ? step.scope : "";

  const add = (kind: string, after = step?.id ?? null, into = scope) => {
    // An empty container that is chosen takes the step in.
    const inside = step?.inner && step.inner.steps.length === 0 && after === step.id ? step.address : null;
    store.apply(
      addStep(
        store.state.design,
        inside ?? into,
        kind,
        inside === null ? after : null,
        placeBeside(design, boxes.current, inside ?? into, after),
      ),
    );
    focusCanvas();
  };
  const show = useCallback(
    (address: string) => {
      for (let outer = scopeOf(address); outer !== ""; outer = scopeOf(outer)) store.fold(outer, false);
      store.select({ steps: [address], gate: null }, true);
      requestAnimationFrame(() => sight.one(boxes.current, address));
    },
    [store, sight],
  );
  const goTo = (problem: ProblemInfo) => {
    const { step, gate, start } = problem;
    setMode("design");
    if (step != null && design.steps.has(step)) show(step);
    else store.select({ steps: [], gate: gate ? { scope: gate.scope, index: gate.index } : null }, true);
    setLead({ offset: start, count: (lead?.count ?? 0) + 1 });
  };
  useEffect(() => {
    if (wanted !== undefined && store.state.design.steps.has(wanted)) show(wanted);
  }, [wanted, show, store]);
  const openInspector = () =>
    (
      inspector.current?.querySelector("input, select, textarea, [contenteditable=true]") as HTMLElement | null
    )?.focus();

  const onKeyDown = useCanvasKeys({
    store,
    boxes,
    show,
    openInspector,
    add: () => setDialog({ name: "add", after: step?.id ?? null, scope }),
    gate: () => step && setDialog({ name: "gate", from: step.address }),
    find: () => setDialog({ name: "find" }),
    rename: () => step && setDialog({ name: "rename", what: "step", scope: step.scope, of: step.id }),
    fit: () => sight.all(boxes.current),
    pause: () =>
      setPauses((all) => {
        const next = new Set(all);
        for (const a of selection.steps) if (!next.delete(a)) next.add(a);
        return next;
      }),
  });

  useEffect(() => {
    if (state.focus > 0)
      setLead((l) =>
        step
          ? { offset: step.from, count: (l?.count ?? 0) + 1 }
          : gate
            ? { offset: gate.start, count: (l?.count ?? 0) + 1 }
            : l,
      );
    // Only when the person was led somewhere.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [state.focus]);

  const several = selection.steps.length > 1;
  const arrange = (how: "left" | "top") => {
    const places = placesOfScope(boxes.current, scopeOf(selection.steps[0] ?? ""));
    for (const [id, at] of align(boxes.current, selection.steps, how)) places.set(id, at);
    store.apply(place(design, places));
  };
  const leave = (next: Mode) => {
    setMode(mode === next ? "design" : next);
    setTab(next === "rehearse" && mode !== next ? "trace" : "problems");
  };
  return (
    <div className="designer" data-low={low}>
      <DesignHead state={state} mode={mode} leave={leave} arrange={several ? arrange : null} open={setDialog} />
      <div className="designbody">
        <Palette kinds={kinds.steps} add={(kind) => add(kind)} />
        <div className="designmid">
          <div
            className="designcanvas canvas"
            tabIndex={0}
            role="application"
            aria-label="Canvas. Arrow keys walk along gates, A adds a step, G starts a gate, Enter opens the chosen step, F2 renames it"
            onKeyDown={onKeyDown}
          >
            <DesignCanvas
              state={state}
              view={view}
              edit={edit}
              drawn={drawn}
              ask={(after, into) =>
                setDialog({
                  name: "add",
                  after: after === null ? null : (design.steps.get(after)?.id ?? null),
                  scope: into,
                })
              }
            />
            {state.picking && (
              <div className="pickhint" role="status">
                Click the step whose output you want{" "}
                <button type="button" className="linkbutton" onClick={() => store.pickStep(null)}>
                  Never mind
                </button>
              </div>
            )}
            <div className="visuallyhidden" role="status">
              {sayChosen(state)}
            </div>
            {design.root.steps.length === 0 && (
              <div className="canvasempty">
                <p>
                  <b>Nothing is here yet.</b>
                </p>
                <p>
                  Drag a kind of step from the left, or press <kbd>A</kbd>. Then draw a gate from its right edge to the
                  next one, or press <kbd>G</kbd>.
                </p>
              </div>
            )}
          </div>
          <LowerTabs
            state={state}
            tab={tab}
            choose={setTab}
            low={low}
            setLow={setLow}
            pastRun={pastRun}
            setPastRun={setPastRun}
            goTo={goTo}
            lead={lead}
            showChanges={setChanges}
            trace={mode === "rehearse" ? rehearsal.trace : null}
          />
        </div>
        <aside
          className="inspector"
          ref={inspector}
          aria-label={mode === "design" ? "Inspector" : undefined}
          onKeyDown={(e) => {
            if (e.key === "Escape" && !e.defaultPrevented) focusCanvas();
          }}
        >
          {mode === "rehearse" ? (
            rehearsal.panel
          ) : mode === "try" ? (
            trying.panel
          ) : (
            <div className="inspect">
              {step ? (
                <StepInspector key={step.address} step={step} />
              ) : gate ? (
                <GateInspector key={`${gate.scope}#${String(gate.index)}`} gate={gate} />
              ) : several ? (
                <>
                  <div className="inspecthead">
                    <span className="kindword">{selection.steps.length} steps</span>
                  </div>
                  <p className="soft small">
                    Ctrl+C copies them, Delete takes them away with their gates; drag one to move all.
                  </p>
                </>
              ) : (
                <ChainInspector />
              )}
            </div>
          )}
        </aside>
      </div>
      <DesignDialogs dialog={dialog} state={state} add={add} show={show} close={() => setDialog(null)} />
      <ConflictDialog state={state} />
    </div>
  );
}
