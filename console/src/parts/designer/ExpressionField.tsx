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
import { EditorState } from "@codemirror/state";
import { EditorView, hoverTooltip, keymap, placeholder as placeholderText } from "@codemirror/view";
import { useEffect, useId, useRef, useState } from "react";
import { lookAtExpression, type Spot } from "../../core/api/client";
import type { ExpressionResult } from "../../core/api/types";
import { lookAt, partAt, pieceAt, piecesOf, type Looked } from "../../core/designer/looks";
import { difference } from "../../core/document/tree";
import { Echoes } from "./echoes";
import { ExpressionBuilder } from "./ExpressionBuilder";
import { NamePicker } from "./NamePicker";
import { useDesigning } from "./useDesign";
import { whenPointerIsUp } from "./whenPointerIsUp";

interface Props {
  label: string;
  description?: string;
  value: string;
  spot: Spot;
  /** Whether it is text with `${…}` in it rather than an expression. */
  template?: boolean;
  required?: boolean;
  /** Whether conditions can be put together from simple comparisons. */
  builder?: boolean;
  multiline?: boolean;
  placeholder?: string;
  commit: (value: string) => void;
}

const COMMIT_AFTER = 250;
const LOOK_AFTER = 120;

/**
 * A field for an expression: completion from what is in scope there, type and mistakes while typing, the value with a
 * past run's data.
 */
export function ExpressionField({
  label,
  description,
  value,
  spot,
  template = false,
  required = false,
  builder = false,
  multiline = false,
  placeholder,
  commit,
}: Props) {
  const { store, pastRun } = useDesigning();
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const [look, setLook] = useState<ExpressionResult | null>(null);
  const [building, setBuilding] = useState(false);
  const [focused, setFocused] = useState(false);
  const id = useId();
  // The editor lives as long as the field; what it calls is always the latest.
  const now = useRef({ value, spot, template, commit, pastRun });
  now.current = { value, spot, template, commit, pastRun };
  const looked = useRef<Looked | null>(null);
  const echoes = useRef(new Echoes());
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const lookTimer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);

  const flush = () => {
    clearTimeout(timer.current);
    timer.current = undefined;
    const text = view.current?.state.doc.toString() ?? "";
    if (text === now.current.value) return;
    echoes.current.send(text);
    now.current.commit(text);
  };

  const lookNow = async () => {
    const editor = view.current;
    if (!editor) return;
    const text = editor.state.doc.toString();
    const pieces = piecesOf(text, now.current.template);
    if (pieces.length === 0) {
      looked.current = null;
      setLook(null);
      editor.dispatch(setDiagnostics(editor.state, []));
      return;
    }
    try {
      const looks = await Promise.all(
        pieces.map((p) =>
          lookAtExpression(store.chain, store.text, now.current.spot, p.text, null, now.current.pastRun),
        ),
      );
      if (view.current !== editor || editor.state.doc.toString() !== text) return;
      const marks = looks.flatMap((l, i): Diagnostic[] =>
        l.problems
          .filter(() => !(now.current.template && l.wanted === "bool"))
          .map((p) => ({
            from: Math.min(text.length, (pieces[i]?.from ?? 0) + p.start),
            to: Math.min(text.length, (pieces[i]?.from ?? 0) + Math.max(p.start + p.length, p.start + 1)),
            severity: "error",
            message: p.mend == null ? p.message : `${p.message} (${p.mend})`,
          })),
      );
      editor.dispatch(setDiagnostics(editor.state, marks));
      looked.current = { text, pieces, looks };
      setLook(lookAt(looked.current, editor.state.selection.main.head));
    } catch {
      looked.current = null;
      setLook(null);
    }
  };
  const lookSoon = () => {
    clearTimeout(lookTimer.current);
    lookTimer.current = setTimeout(() => void lookNow(), LOOK_AFTER);
  };

  useEffect(() => {
    if (!host.current) return;
    const complete = async (context: CompletionContext): Promise<CompletionResult | null> => {
      const text = context.state.doc.toString();
      const piece = pieceAt(text, context.pos, now.current.template);
      if (!piece || (!context.explicit && !/[\w.?]$/.test(text.slice(0, context.pos)))) return null;
      const found = await lookAtExpression(
        store.chain,
        store.text,
        now.current.spot,
        piece.text,
        context.pos - piece.from,
        null,
      ).catch(() => null);
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
    const single = multiline
      ? [EditorView.lineWrapping]
      : [
          EditorState.transactionFilter.of((tr) =>
            tr.newDoc.lines > 1
              ? [
                  tr,
                  {
                    changes: { from: 0, to: tr.newDoc.length, insert: tr.newDoc.toString().replaceAll("\n", " ") },
                    sequential: true,
                  },
                ]
              : tr,
          ),
          EditorView.lineWrapping,
        ];
    const hover = hoverTooltip((editor, pos) => {
      const part = looked.current && partAt(looked.current, editor.state.doc.toString(), pos);
      if (!part) return null;
      return {
        pos: part.from,
        end: part.to,
        create: () => {
          const dom = document.createElement("div");
          dom.className = "partvalue";
          dom.textContent = part.value == null ? "was not looked at" : `= ${part.value}`;
          return { dom };
        },
      };
    });
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: now.current.value,
        extensions: [
          history(),
          autocompletion({ override: [complete], activateOnTyping: true, icons: false }),
          hover,
          placeholderText(placeholder ?? ""),
          ...single,
          keymap.of([
            { key: "Tab", run: acceptCompletion },
            { key: "Escape", run: closeCompletion },
            { key: "Ctrl-Space", run: startCompletion },
            { key: "Enter", run: () => (multiline ? false : (flush(), true)) },
            ...completionKeymap,
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.contentAttributes.of({
            "aria-labelledby": `${id}-l`,
            "aria-describedby": `${id}-d`,
            "aria-multiline": String(multiline),
            role: "textbox",
            spellcheck: "false",
          }),
          EditorView.updateListener.of((u) => {
            if (u.docChanged) {
              clearTimeout(timer.current);
              timer.current = setTimeout(() => whenPointerIsUp(flush), COMMIT_AFTER);
              lookSoon();
            }
            if (u.focusChanged) setFocused(u.view.hasFocus);
          }),
          EditorView.domEventHandlers({
            blur: () => {
              whenPointerIsUp(flush);
              return false;
            },
          }),
        ],
      }),
    });
    view.current = editor;
    lookSoon();
    window.addEventListener("pagehide", flush);
    return () => {
      window.removeEventListener("pagehide", flush);
      flush();
      clearTimeout(lookTimer.current);
      view.current = null;
      editor.destroy();
    };
    // One editor for the life of the field.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  useEffect(() => {
    const editor = view.current;
    // What comes from elsewhere is shown, unless somebody is typing: what was typed before may come back late, and
    // without the space it ended in.
    const shown = editor?.state.doc.toString() ?? "";
    const stale = echoes.current.isStale(value);
    if (!editor || stale || timer.current !== undefined || shown.trim() === value.trim()) return;
    const { from, toA, toB } = difference(shown, value);
    editor.dispatch({ changes: { from, to: toA, insert: value.slice(from, toB) } });
    clearTimeout(timer.current);
    timer.current = undefined;
  }, [value]);
  useEffect(() => lookSoon(), [pastRun]); // eslint-disable-line react-hooks/exhaustive-deps

  const put = (name: string) => {
    const editor = view.current;
    if (!editor) return;
    const text = editor.state.doc.toString();
    const { from, to } = editor.state.selection.main;
    const inside = pieceAt(text, from, template) !== null;
    const insert = inside ? name : `\${${name}}`;
    editor.dispatch({ changes: { from, to, insert }, selection: { anchor: from + insert.length } });
    editor.focus();
  };
  const write = (text: string) => {
    view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: text } });
    flush();
  };
  const mistake = look?.problems[0];
  return (
    <div className="exprfield" data-focused={focused}>
      <div className="labelrow">
        <span id={`${id}-l`} className="label">
          {label}
          {required && (
            <span className="required" aria-hidden>
              {" "}
              *
            </span>
          )}
        </span>
        <NamePicker spot={spot} pick={put} what={label} />
        {builder && (
          <button type="button" className="linkbutton" aria-expanded={building} onClick={() => setBuilding(!building)}>
            {building ? "Close builder" : "Build"}
          </button>
        )}
      </div>
      <div ref={host} className="cmhost" data-template={template} />
      <div id={`${id}-d`} className="hint">
        {mistake && !(template && look.wanted === "bool") ? (
          <span className="wrong">⨯ {mistake.message}</span>
        ) : look?.type != null ? (
          <>
            <span className="soft">{look.type}</span>
            {look.value != null && (
              <span className="livevalue">
                {" "}
                · with run {pastRun}: <code>{look.value}</code>
              </span>
            )}
            {look.valueError != null && (
              <span className="soft">
                {" "}
                · with run {pastRun}: {look.valueError}
              </span>
            )}
          </>
        ) : (
          description !== undefined && <span className="soft">{description}</span>
        )}
      </div>
      {building && <ExpressionBuilder text={view.current?.state.doc.toString() ?? value} spot={spot} write={write} />}
    </div>
  );
}
