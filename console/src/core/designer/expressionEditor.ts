import {
  acceptCompletion,
  autocompletion,
  closeCompletion,
  completionKeymap,
  startCompletion,
  type CompletionContext,
  type CompletionResult,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { EditorState, type Extension } from "@codemirror/state";
import { EditorView, hoverTooltip, keymap, placeholder, type Tooltip } from "@codemirror/view";
import { lookAtExpression, type Spot } from "../api/client";
import type { ExpressionResult } from "../api/types";
import { difference } from "../document/tree";
import { Echoes } from "./echoes";
import { lookAt, partAt, pieceAt, piecesOf, type Looked } from "./looks";
import { whenPointerIsUp } from "./whenPointerIsUp";

/** How long after typing the text becomes an edit of the draft, in milliseconds. */
const commitAfter = 250;

/** How long after typing the service is asked for type and value, in milliseconds. */
const lookAfter = 120;

/** What an editor is for. It may change while the editor lives. */
export interface ExpressionSetting {
  /** The chain, and its draft as it is by now. */
  draft: { readonly chain: string; readonly text: string };
  /** The text as the draft has it. */
  value: string;
  spot: Spot;
  /** Whether it is text with `${…}` in it rather than an expression. */
  template: boolean;
  /** The run whose data it is computed with; null for none. */
  pastRun: number | null;
  commit: (text: string) => void;
}

/** How an editor looks; fixed for its life. */
export interface ExpressionAppearance {
  multiline: boolean;
  placeholder: string;
  /** Ids of the elements that name it, and that say what was found. */
  labelId: string;
  hintId: string;
}

/** What there is to show beside an editor. */
export interface ExpressionState {
  /** What was found of the expression that the caret is in; null before that, or when nothing could be found. */
  look: ExpressionResult | null;
  focused: boolean;
}

/**
 * An editor for an expression, or for text with expressions in it: completion from what is in scope, mistakes while
 * typing, the values of parts with a past run's data. What is typed becomes an edit a moment later.
 */
export class ExpressionEditor {
  readonly #view: EditorView;
  readonly #changed: (state: ExpressionState) => void;
  readonly #echoes = new Echoes();
  #setting: ExpressionSetting;
  #state: ExpressionState = { look: null, focused: false };
  #looked: Looked | null = null;
  #commitTimer: ReturnType<typeof setTimeout> | undefined;
  #lookTimer: ReturnType<typeof setTimeout> | undefined;
  #closed = false;

  constructor(
    host: HTMLElement,
    setting: ExpressionSetting,
    appearance: ExpressionAppearance,
    changed: (state: ExpressionState) => void,
  ) {
    this.#setting = setting;
    this.#changed = changed;
    this.#view = new EditorView({
      parent: host,
      state: EditorState.create({ doc: setting.value, extensions: this.#extensions(appearance) }),
    });
    window.addEventListener("pagehide", this.#flush);
    this.#lookSoon();
  }

  get text(): string {
    return this.#view.state.doc.toString();
  }

  /**
   * Takes what has changed around it. A value that comes from elsewhere is shown, unless somebody is typing: what was
   * typed before may come back late, and without the space it ended in.
   */
  set(setting: ExpressionSetting) {
    const before = this.#setting;
    this.#setting = setting;
    if (setting.pastRun !== before.pastRun) this.#lookSoon();
    if (setting.value === before.value) return;
    const { text } = this;
    const isStale = this.#echoes.isStale(setting.value);
    if (isStale || this.#commitTimer !== undefined || text.trim() === setting.value.trim()) return;
    const { from, toA, toB } = difference(text, setting.value);
    this.#view.dispatch({ changes: { from, to: toA, insert: setting.value.slice(from, toB) } });
    clearTimeout(this.#commitTimer);
    this.#commitTimer = undefined;
  }

  /** Puts a name where the caret is; in a text outside of its expressions as one of its own. */
  insertName(name: string) {
    const { from, to } = this.#view.state.selection.main;
    const insert = pieceAt(this.text, from, this.#setting.template) !== null ? name : `\${${name}}`;
    this.#view.dispatch({ changes: { from, to, insert }, selection: { anchor: from + insert.length } });
    this.#view.focus();
  }

  /** Replaces the whole text, and makes it an edit. */
  replace(text: string) {
    this.#view.dispatch({ changes: { from: 0, to: this.#view.state.doc.length, insert: text } });
    this.#flush();
  }

  /** Makes what was typed last an edit, and ends. */
  close() {
    window.removeEventListener("pagehide", this.#flush);
    this.#flush();
    this.#closed = true;
    clearTimeout(this.#lookTimer);
    this.#view.destroy();
  }

  #show(state: Partial<ExpressionState>) {
    this.#state = { ...this.#state, ...state };
    this.#changed(this.#state);
  }

  readonly #flush = () => {
    clearTimeout(this.#commitTimer);
    this.#commitTimer = undefined;
    const { text } = this;
    if (this.#closed || text === this.#setting.value) return;
    this.#echoes.send(text);
    this.#setting.commit(text);
  };

  #lookSoon() {
    clearTimeout(this.#lookTimer);
    this.#lookTimer = setTimeout(() => void this.#look(), lookAfter);
  }

  async #look() {
    const { text } = this;
    const { draft, spot, template, pastRun } = this.#setting;
    const pieces = piecesOf(text, template);
    let looks: ExpressionResult[];
    try {
      looks = await Promise.all(
        pieces.map((piece) => lookAtExpression(draft.chain, draft.text, spot, piece.text, null, pastRun)),
      );
    } catch {
      this.#found(null);
      return;
    }
    if (!this.#closed && this.text === text) this.#found(pieces.length === 0 ? null : { text, pieces, looks });
  }

  #found(looked: Looked | null) {
    if (this.#closed) return;
    this.#looked = looked;
    this.#view.dispatch(setDiagnostics(this.#view.state, looked ? this.#mistakes(looked) : []));
    this.#show({ look: looked && lookAt(looked, this.#view.state.selection.main.head) });
  }

  #mistakes({ text, pieces, looks }: Looked): Diagnostic[] {
    return looks.flatMap((look, i) =>
      // An expression in a text gives text, whatever the field wants.
      this.#setting.template && look.wanted === "bool"
        ? []
        : look.problems.map((problem): Diagnostic => {
            const from = (pieces[i]?.from ?? 0) + problem.start;
            return {
              from: Math.min(text.length, from),
              to: Math.min(text.length, from + Math.max(problem.length, 1)),
              severity: "error",
              message: problem.fix == null ? problem.message : `${problem.message} (${problem.fix})`,
            };
          }),
    );
  }

  #extensions({ multiline, placeholder: hint, labelId, hintId }: ExpressionAppearance): Extension[] {
    return [
      history(),
      autocompletion({ override: [this.#complete], activateOnTyping: true, icons: false }),
      hoverTooltip((_, at) => this.#valueAt(at)),
      placeholder(hint),
      EditorView.lineWrapping,
      multiline ? [] : oneLine,
      keymap.of([
        { key: "Tab", run: acceptCompletion },
        { key: "Escape", run: closeCompletion },
        { key: "Ctrl-Space", run: startCompletion },
        { key: "Enter", run: () => (multiline ? false : (this.#flush(), true)) },
        ...completionKeymap,
        ...historyKeymap,
        ...defaultKeymap,
      ]),
      EditorView.contentAttributes.of({
        "aria-labelledby": labelId,
        "aria-describedby": hintId,
        "aria-multiline": String(multiline),
        role: "textbox",
        spellcheck: "false",
      }),
      EditorView.updateListener.of((update) => {
        if (update.docChanged) {
          clearTimeout(this.#commitTimer);
          this.#commitTimer = setTimeout(() => whenPointerIsUp(this.#flush), commitAfter);
          this.#lookSoon();
        }
        if (update.focusChanged) this.#show({ focused: update.view.hasFocus });
      }),
      EditorView.domEventHandlers({
        blur: () => {
          whenPointerIsUp(this.#flush);
          return false;
        },
      }),
    ];
  }

  readonly #complete = async (context: CompletionContext): Promise<CompletionResult | null> => {
    const text = context.state.doc.toString();
    const { draft, spot, template } = this.#setting;
    const piece = pieceAt(text, context.pos, template);
    if (!piece || (!context.explicit && !/[\w.?]$/.test(text.slice(0, context.pos)))) return null;
    const cursor = context.pos - piece.from;
    const found = await lookAtExpression(draft.chain, draft.text, spot, piece.text, cursor, null).catch(() => null);
    if (!found) return null;
    return {
      from: piece.from + found.completeFrom,
      validFor: /^\w*$/,
      options: found.completions.map((c) => ({
        label: c.label,
        detail: c.type,
        info: c.doc ?? undefined,
        type: c.kind === "name" ? "variable" : c.kind === "function" ? "function" : "keyword",
        apply: c.kind === "function" ? `${c.label}(` : c.type === "…" ? `${c.label}.` : c.label,
        boost: c.kind === "name" ? 2 : 0,
      })),
    };
  };

  #valueAt(offset: number): Tooltip | null {
    const part = this.#looked && partAt(this.#looked, this.text, offset);
    if (!part) return null;
    return {
      pos: part.from,
      end: part.to,
      create: () => {
        const dom = document.createElement("div");
        dom.className = "partvalue";
        dom.textContent = part.value == null ? "was not evaluated" : `= ${part.value}`;
        return { dom };
      },
    };
  }
}

/** Lines that are pasted into a field of one line become one. */
const oneLine = EditorState.transactionFilter.of((tr) =>
  tr.newDoc.lines > 1
    ? [
        tr,
        {
          changes: { from: 0, to: tr.newDoc.length, insert: tr.newDoc.toString().replaceAll("\n", " ") },
          sequential: true,
        },
      ]
    : tr,
);
