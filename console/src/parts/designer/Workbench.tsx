import { useNavigate, useSearch } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { KindsInfo, PartChangeInfo, ProblemInfo, WorkspaceContextInfo } from "../../core/api/types";
import { align, placeBeside, placesOfScope } from "../../core/designer/arrange";
import type { DesignStore } from "../../core/designer/DesignStore";
import { addHandler, addStep, place, wrap } from "../../core/designer/operations";
import { tell } from "../../core/designer/tells";
import { at, plain } from "../../core/document/tree";
import { occasionOf } from "../../core/graph/bands";
import type { Box } from "../../core/graph/flow";
import { scopeOf } from "../../core/stepPath";
import type { EditView } from "../canvas/EditView";
import { CanvasMenu } from "./canvas/CanvasMenu";
import { entriesOf } from "./canvas/menuEntries";
import { CanvasPane, unreadable } from "./canvas/CanvasPane";
import { focusCanvas } from "./canvas/focus";
import { changesOf, neverOf, worstOf } from "./canvas/marks";
import { useCanvasKeys } from "./canvas/useCanvasKeys";
import { useSight } from "../canvas/useSight";
import { useRemembered } from "../page/useRemembered";
import { ConflictDialog } from "./dialogs/ConflictDialog";
import { DesignDialogs, type Dialog } from "./dialogs/DesignDialogs";
import { focusInspector, Inspector } from "./inspector/Inspector";
import { Palette } from "./Palette";
import { noteUsed } from "./kindsUsed";
import { LowerTabs } from "./panels/LowerTabs";
import { Toolbar } from "./Toolbar";
import { DesignContext, useDesign, type Designing } from "./useDesign";
import { useModes } from "./useModes";

/** The designer: palette, canvas, inspector, and what stands below. */
export function Workbench({
  store,
  kinds,
  context,
}: {
  store: DesignStore;
  kinds: KindsInfo;
  context: WorkspaceContextInfo;
}) {
  const [dialog, setDialog] = useState<Dialog | null>(null);
  const [pastRun, setPastRun] = useState<number | null>(null);
  const rename = useCallback(
    (what: string, scope: string, of: string, to?: string) => setDialog({ name: "rename", what, scope, of, to }),
    [],
  );
  const designing = useMemo<Designing>(
    () => ({ store, kinds, context, pastRun, setPastRun, rename }),
    [store, kinds, context, pastRun, rename],
  );
  return (
    <DesignContext value={designing}>
      <Layout dialog={dialog} open={setDialog} designing={designing} />
    </DesignContext>
  );
}

function Layout({
  dialog,
  open,
  designing: { store, kinds },
}: {
  dialog: Dialog | null;
  open: (dialog: Dialog | null) => void;
  designing: Designing;
}) {
  const { step: wanted } = useSearch({ from: "/chains/$name/design" });
  const navigate = useNavigate();
  const state = useDesign(store);
  const sight = useSight();
  const { design, selection } = state;
  const [asksLow, setLow] = useRemembered<boolean>("designer lower part shut", true);
  const [lead, setLead] = useState<{ offset: number; count: number } | null>(null);
  const [pauses, setPauses] = useState<ReadonlySet<string>>(new Set());
  const [changes, setChanges] = useState<PartChangeInfo[] | null>(null);
  const boxes = useRef<Box[]>([]);
  const drawn = useCallback((all: Box[]) => void (boxes.current = all), []);
  const inspector = useRef<HTMLElement>(null);
  const modes = useModes(state, pauses);
  // What happens in a rehearsal is what one rehearses for.
  const low = asksLow && modes.trace === null;
  const problems = useMemo(() => worstOf(state), [state]);
  const never = useMemo(() => neverOf(state), [state]);
  const tells = useMemo(() => new Map(kinds.steps.map((k) => [k.name, k.tells])), [kinds]);
  const edit = useMemo<EditView>(
    () => ({
      chosen: new Set(selection.steps),
      chosenGate: selection.gate,
      chosenBand: selection.band ?? null,
      problems,
      never,
      chooseGate: (scope, index) => store.select({ steps: [], gate: { scope, index } }),
      pauses,
      changes: changesOf(changes),
      fact: (address) => {
        const of = design.steps.get(address);
        return of ? tell(tells.get(of.kind), plain(at(design.file.root, [...of.path, "set"]))) : null;
      },
    }),
    [selection, problems, never, store, pauses, changes, design, tells],
  );
  const step = selection.steps.length === 1 ? design.steps.get(selection.steps[0] ?? "") : undefined;
  const gate = selection.gate ? design.gate(selection.gate.scope, selection.gate.index) : undefined;
  const scope = step?.scope ?? selection.band ?? "";

  const add = (kind: string, after = step?.id ?? null, into = scope) => {
    // An empty container that is chosen takes the step in.
    const inside = step?.inner && step.inner.steps.length === 0 && after === step.id ? step.address : null;
    const at = placeBeside(design, boxes.current, inside ?? into, after);
    store.apply(addStep(store.state.design, inside ?? into, kind, inside === null ? after : null, at));
    noteUsed(kind);
    focusCanvas();
  };
  const handle = (occasion: string) => {
    store.apply(addHandler(store.state.design, occasion));
    // One that is there already is shown; a new one is when it is drawn.
    sight.keep(boxes.current, `@${occasion}`);
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
  const leadTo = (offset: number) => setLead((last) => ({ offset, count: (last?.count ?? 0) + 1 }));
  const goTo = (problem: ProblemInfo) => {
    modes.design();
    if (problem.step != null && design.steps.has(problem.step)) show(problem.step);
    else {
      const at = problem.gate ? { scope: problem.gate.scope, index: problem.gate.index } : null;
      store.select({ steps: [], gate: at }, true);
    }
    // What can't be read has no step: it is fixed in the source.
    if (problem.code === unreadable) {
      modes.chooseTab("source");
      setLow(false);
    }
    leadTo(problem.start);
  };
  // Whoever comes to a new chain can press A at once.
  useEffect(() => {
    if (document.activeElement === document.body || document.activeElement === null) focusCanvas();
  }, []);
  // Where what had the keyboard is gone, the next key leads to the canvas and not to the beginning of the page.
  useEffect(() => {
    const back = (event: KeyboardEvent) => {
      if (event.target === document.body) focusCanvas();
    };
    window.addEventListener("keydown", back);
    return () => window.removeEventListener("keydown", back);
  }, []);
  // The address names the chosen step, so that a reload and a colleague come to it.
  const named = useRef<string | undefined>(undefined);
  const only = step?.address;
  useEffect(() => {
    if (only === named.current) return;
    const timer = setTimeout(() => {
      named.current = only;
      void navigate({ to: ".", search: (all) => ({ ...all, step: only }), replace: true });
    }, 250);
    return () => clearTimeout(timer);
  }, [only, navigate]);
  useEffect(() => {
    if (wanted === named.current) return;
    named.current = wanted;
    if (wanted !== undefined && store.state.design.steps.has(wanted)) show(wanted);
  }, [wanted, show, store]);
  useEffect(() => {
    const at = step?.from ?? gate?.start;
    if (state.focus > 0 && at !== undefined) leadTo(at);
    // Only when the person was led somewhere.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [state.focus]);

  const { onKeyDown, bindings } = useCanvasKeys({
    store,
    boxes,
    show,
    openInspector: () => focusInspector(inspector),
    add: () => open({ name: "add", after: step?.id ?? null, scope }),
    gate: () => step && open({ name: "gate", from: step.address }),
    find: () => open({ name: "find" }),
    field: () => open({ name: "field" }),
    rename: () => step && open({ name: "rename", what: "step", scope: step.scope, of: step.id }),
    fit: () => sight.all(boxes.current),
    natural: () => sight.natural(),
    pause: () =>
      setPauses((all) => {
        const next = new Set(all);
        for (const address of selection.steps) if (!next.delete(address)) next.add(address);
        return next;
      }),
  });
  const [menu, setMenu] = useState<{ x: number; y: number } | null>(null);
  const arrange = (how: "left" | "top") => {
    const places = placesOfScope(boxes.current, scopeOf(selection.steps[0] ?? ""));
    for (const [id, at] of align(boxes.current, selection.steps, how)) places.set(id, at);
    store.apply(place(design, places));
  };
  const askBehind = (after: string | null, into: string) =>
    open({ name: "add", after: after === null ? null : (design.steps.get(after)?.id ?? null), scope: into });
  return (
    <div className="designer" data-low={low}>
      <Toolbar state={state} modes={modes} arrange={selection.steps.length > 1 ? arrange : null} open={open} />
      <div className="designbody">
        <Palette
          kinds={kinds.steps}
          handled={design.handlers.map((h) => occasionOf(h.address))}
          add={(kind) => add(kind)}
          handle={handle}
        />
        <div className="designmid">
          <CanvasPane
            state={state}
            view={modes.view}
            edit={edit}
            drawn={drawn}
            goTo={goTo}
            ask={askBehind}
            onKeyDown={onKeyDown}
            menu={setMenu}
          />
          <LowerTabs
            state={state}
            modes={modes}
            low={low}
            setLow={setLow}
            goTo={goTo}
            lead={lead}
            showChanges={setChanges}
          />
        </div>
        <Inspector state={state} panel={modes.panel} host={inspector} />
      </div>
      {menu && (
        <CanvasMenu
          at={menu}
          entries={entriesOf(state, bindings(), arrange, (kind) => {
            store.apply(wrap(store.state.design, selection.steps, kind));
            focusCanvas();
          })}
          close={() => {
            setMenu(null);
            focusCanvas();
          }}
        />
      )}
      <DesignDialogs dialog={dialog} state={state} add={add} handle={handle} show={show} close={() => open(null)} />
      <ConflictDialog state={state} />
    </div>
  );
}
