import { Refused } from "../api/call";
import { checkDraft, getDraft, saveDraft } from "../api/client";
import type { DraftInfo, ProblemInfo } from "../api/types";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { nothing, tidy, type Edited, type Selection } from "./operations";
import { keepUnsaved, forgetUnsaved } from "./shelf";

/** How far what is on the page is on the service's disk. */
export type Saved = "saved" | "waiting" | "saving" | "lost" | "conflict" | "refused";

/** Everything the designer shows; a new object with every change. */
export interface DesignState {
  design: Design;
  selection: Selection;
  /** Changes whenever something else is chosen: not when what is chosen gets another name. */
  choice: number;
  /** The version on the service that the text is made from. */
  version: number;
  saved: Saved;
  /** What the service said when it refused to save. */
  trouble: string | null;
  /** The draft that somebody else has saved meanwhile. */
  theirs: DraftInfo | null;
  problems: ProblemInfo[];
  /** Whether the problems are those of the text as it is. */
  checked: boolean;
  canUndo: boolean;
  canRedo: boolean;
  folded: ReadonlySet<string>;
  /** Changes whenever the person is to be led to what is chosen. */
  focus: number;
  /** Counted whenever the whole is to be arranged anew. */
  anew: number;
  /** Whether the next click on a step says which of its outputs is wanted, rather than choosing it. */
  picking: boolean;
}

interface Step {
  text: string;
  selection: Selection;
}

const SAVE_AFTER = 400;
const CHECK_AFTER = 120;
const TRY_AGAIN = 2_000;
const TYPING = 1_000;

/** A draft while somebody works on it: its text, its history, and how it gets to the service. Knows no page. */
export class DesignStore {
  #state: DesignState;
  #undo: Step[] = [];
  #redo: Step[] = [];
  #typed = 0;
  #listeners = new Set<() => void>();
  #saveTimer: ReturnType<typeof setTimeout> | undefined;
  #checkTimer: ReturnType<typeof setTimeout> | undefined;
  #savedText: string;
  #saving: Promise<boolean> | null = null;
  /** What was sent when the answer did not come: the service may have it. */
  #unanswered: string | null = null;
  /** The newest version that was told of. */
  #newestVersion = 0;
  #closed = false;

  constructor(
    readonly chain: string,
    draft: DraftInfo,
    mine: string | null = null,
  ) {
    this.#savedText = draft.source;
    this.#state = {
      design: new Design(new YamlText(draft.source)),
      selection: nothing,
      choice: 0,
      version: draft.version,
      saved: "saved",
      trouble: null,
      theirs: null,
      problems: [],
      checked: false,
      canUndo: false,
      canRedo: false,
      folded: new Set(),
      focus: 0,
      anew: 0,
      picking: false,
    };
    if (mine !== null && mine !== draft.source) this.apply({ text: mine });
    this.#checkSoon(0);
  }

  get state() {
    return this.#state;
  }

  get text() {
    return this.#state.design.file.text;
  }

  subscribe = (listener: () => void) => {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  };

  #set(change: Partial<DesignState>) {
    this.#state = { ...this.#state, ...change };
    this.#listeners.forEach((tell) => tell());
  }

  /** Arranges the whole anew: forgets what was put by hand, and where things were. */
  tidy() {
    this.#set({ anew: this.#state.anew + 1 });
    this.apply(tidy(this.#state.design));
  }

  /** Takes over an edit; with `typing`, what is typed in one go is undone in one go. */
  apply(edited: Edited, typing = false) {
    const before = this.#state.design.file;
    const selection = edited.select ?? this.#state.selection;
    const choice = this.#state.choice + (edited.select && edited.renamed !== true ? 1 : 0);
    if (edited.text === before.text) {
      this.#set({ selection, choice });
      return;
    }
    const now = Date.now();
    if (!typing || now - this.#typed > TYPING) this.#undo.push({ text: before.text, selection: this.#state.selection });
    this.#typed = typing ? now : 0;
    this.#redo = [];
    this.#change(edited.text, selection, choice);
  }

  #change(text: string, selection: Selection, choice: number) {
    const design = new Design(new YamlText(text, this.#state.design.file));
    this.#set({
      design,
      selection: known(design, selection),
      choice,
      checked: false,
      canUndo: this.#undo.length > 0,
      canRedo: this.#redo.length > 0,
      saved: this.#state.saved === "conflict" ? "conflict" : "waiting",
    });
    keepUnsaved(this.chain, { text, version: this.#state.version });
    this.#saveSoon(SAVE_AFTER);
    this.#checkSoon(CHECK_AFTER);
  }

  undo() {
    this.#back(this.#undo, this.#redo);
  }

  redo() {
    this.#back(this.#redo, this.#undo);
  }

  #back(from: Step[], to: Step[]) {
    const step = from.pop();
    if (!step) return;
    this.#typed = 0;
    to.push({ text: this.text, selection: this.#state.selection });
    this.#change(step.text, step.selection, this.#state.choice + 1);
  }

  select(selection: Selection, lead = false) {
    this.#set({ selection, choice: this.#state.choice + 1, focus: this.#state.focus + (lead ? 1 : 0) });
  }

  #picked: ((address: string) => void) | null = null;

  /** The next click on a step is told to who asks; null calls it off. */
  pickStep(picked: ((address: string) => void) | null) {
    this.#picked = picked;
    this.#set({ picking: picked !== null });
  }

  /** A step was clicked while one was asked for; false when none was. */
  tookStep(address: string): boolean {
    const picked = this.#picked;
    if (!picked) return false;
    this.pickStep(null);
    picked(address);
    return true;
  }

  fold(address: string, folded: boolean) {
    const all = new Set(this.#state.folded);
    if (folded) all.add(address);
    else all.delete(address);
    this.#set({ folded: all });
  }

  #checkSoon(after: number) {
    clearTimeout(this.#checkTimer);
    this.#checkTimer = setTimeout(() => void this.#check(), after);
  }

  async #check() {
    const text = this.text;
    try {
      const problems = await checkDraft(this.chain, text);
      if (text === this.text) this.#set({ problems, checked: true });
    } catch {
      // The notice that the connection is lost says enough; it is checked again when it is back.
      if (!this.#closed) this.#checkSoon(TRY_AGAIN);
    }
  }

  #saveSoon(after: number) {
    clearTimeout(this.#saveTimer);
    this.#saveTimer = setTimeout(() => void this.save(), after);
  }

  /**
   * Saves now what is not saved; true when all of it is on the service then. Each save is made from the one before, so
   * one goes after the other.
   */
  save(): Promise<boolean> {
    clearTimeout(this.#saveTimer);
    this.#saving ??= this.#saveAll().finally(() => {
      this.#saving = null;
      if (this.#newestVersion > this.#state.version) this.noticeVersion(this.#newestVersion);
    });
    return this.#saving;
  }

  async #saveAll(): Promise<boolean> {
    if (this.#state.saved === "conflict") return false;
    while (this.text !== this.#savedText || this.#unanswered !== null) {
      const text = this.text;
      this.#set({ saved: "saving" });
      try {
        this.#has(await saveDraft(this.chain, this.#state.version, text));
      } catch (e) {
        if (!this.#failed(e, text)) return false;
      }
    }
    this.#set({ saved: "saved", trouble: null });
    forgetUnsaved(this.chain);
    return true;
  }

  /** The service has this, and what is here is made from it. */
  #has(draft: DraftInfo) {
    this.#savedText = draft.source;
    this.#unanswered = null;
    this.#set({ version: draft.version, trouble: null });
    if (this.isDirty) keepUnsaved(this.chain, { text: this.text, version: draft.version });
  }

  /** Whether saving continues all the same. */
  #failed(e: unknown, text: string): boolean {
    if (e instanceof Refused && e.status === 412 && e.details.current) {
      const { current } = e.details;
      // Both may have come to the same text, or a save was taken whose answer never came.
      if (current.source === text || current.source === this.#unanswered) {
        this.#has(current);
        return true;
      }
      this.#unanswered = null;
      this.#set({ saved: "conflict", theirs: current });
    } else if (e instanceof Refused && e.status !== 0 && e.status !== 401 && e.status < 500) {
      this.#set({ saved: "refused", trouble: e.message });
    } else {
      this.#unanswered = text;
      this.#set({ saved: "lost", trouble: e instanceof Error ? e.message : String(e) });
      if (!this.#closed) this.#saveSoon(TRY_AGAIN);
    }
    return false;
  }

  /** A version of the draft was saved, here or elsewhere. */
  noticeVersion(version: number) {
    this.#newestVersion = Math.max(this.#newestVersion, version);
    if (this.#saving || this.#closed || version <= this.#state.version || this.#state.saved === "conflict") return;
    void getDraft(this.chain).then(
      (draft) => {
        if (this.#saving || this.#closed || draft.version <= this.#state.version) return;
        if (this.isDirty && draft.source !== this.text) this.raiseConflict(draft);
        else this.take(draft);
      },
      // Whoever saves next is told of it again.
      () => undefined,
    );
  }

  /** Whether there is something that the service does not have. */
  get isDirty() {
    return this.text !== this.#savedText;
  }

  /** Continues from a draft that somebody else has saved; what was here can be had back by undo. */
  take(draft: DraftInfo) {
    if (draft.source !== this.text) {
      this.#undo.push({ text: this.text, selection: this.#state.selection });
      this.#redo = [];
      this.#change(draft.source, this.#state.selection, this.#state.choice);
    }
    this.#has(draft);
    this.#set({ saved: "saved", theirs: null });
    forgetUnsaved(this.chain);
  }

  /** Saves what is here over what somebody else has saved; theirs stays in the history. */
  async keepMine(): Promise<boolean> {
    const { theirs } = this.#state;
    if (!theirs) return false;
    this.#has(theirs);
    this.#set({ saved: "waiting", theirs: null });
    return this.save();
  }

  /** What somebody else has saved is shown beside what is here; nothing is decided yet. */
  raiseConflict(theirs: DraftInfo) {
    this.#set({ saved: "conflict", theirs });
  }

  /** The draft became a release: nothing of it is left to save. */
  released() {
    this.#savedText = this.text;
    this.#set({ version: 0, saved: "saved" });
    forgetUnsaved(this.chain);
  }

  close() {
    this.#closed = true;
    clearTimeout(this.#saveTimer);
    clearTimeout(this.#checkTimer);
    if (this.isDirty && this.#state.saved !== "conflict") void this.save();
  }
}

/** What is chosen, as far as it is still there. */
function known(design: Design, selection: Selection): Selection {
  const steps = selection.steps.filter((s) => design.steps.has(s));
  const gate = selection.gate && design.gate(selection.gate.scope, selection.gate.index) ? selection.gate : null;
  const band = selection.band !== undefined && design.scopes.has(selection.band) ? selection.band : undefined;
  return steps.length === selection.steps.length && gate === selection.gate && band === selection.band
    ? selection
    : { steps, gate, band };
}
