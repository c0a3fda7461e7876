import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { html } from "@codemirror/lang-html";
import { json } from "@codemirror/lang-json";
import { python } from "@codemirror/lang-python";
import { sql } from "@codemirror/lang-sql";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, indentOnInput, StreamLanguage, syntaxHighlighting } from "@codemirror/language";
import { javascript } from "@codemirror/legacy-modes/mode/javascript";
import { shell } from "@codemirror/legacy-modes/mode/shell";
import { lintGutter, setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { unifiedMergeView } from "@codemirror/merge";
import { Annotation, EditorState, type Extension } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { ProblemInfo } from "../../core/api/types";
import { difference } from "../../core/document/tree";

const fromOutside = Annotation.define<boolean>();

const languages: Record<string, () => Extension> = {
  yaml,
  yml: yaml,
  json,
  sql,
  html,
  py: python,
  js: () => StreamLanguage.define(javascript),
  mjs: () => StreamLanguage.define(javascript),
  sh: () => StreamLanguage.define(shell),
};

const languageOf = (path: string): Extension => languages[path.slice(path.lastIndexOf(".") + 1)]?.() ?? [];

const colours = HighlightStyle.define([
  { tag: [tags.keyword, tags.definition(tags.propertyName), tags.propertyName, tags.tagName], color: "var(--accent)" },
  { tag: [tags.comment, tags.meta], color: "var(--soft)", fontStyle: "italic" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--running)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--succeeded)" },
]);

const shared = (path: string): Extension[] => [
  lineNumbers(),
  EditorView.lineWrapping,
  languageOf(path),
  syntaxHighlighting(colours),
];

/** A text with the colours of its language, problems at their lines. */
export default function TextEditor({
  path,
  text,
  change,
  save,
  problems,
}: {
  path: string;
  text: string;
  change: (text: string) => void;
  save: () => void;
  problems: readonly ProblemInfo[];
}) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef({ change, save });
  told.current = { change, save };

  useEffect(() => {
    if (!host.current) return;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          ...shared(path),
          lintGutter(),
          history(),
          highlightActiveLine(),
          drawSelection(),
          indentOnInput(),
          keymap.of([
            { key: "Mod-s", preventDefault: true, run: () => (told.current.save(), true) },
            ...historyKeymap,
            indentWithTab,
            ...defaultKeymap,
          ]),
          EditorView.contentAttributes.of({ "aria-label": path, tabindex: "0" }),
          EditorView.updateListener.of((u) => {
            if (u.docChanged && !u.transactions.some((t) => t.annotation(fromOutside) === true))
              told.current.change(u.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the text is followed below
  }, [path]);

  useEffect(() => {
    const editor = view.current;
    const now = editor?.state.doc.toString();
    if (!editor || now === undefined || now === text) return;
    const { from, toA, toB } = difference(now, text);
    editor.dispatch({
      changes: { from, to: toA, insert: text.slice(from, toB) },
      annotations: fromOutside.of(true),
    });
  }, [text]);

  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const { doc } = editor.state;
    const found = problems.map((p): Diagnostic => {
      const line = doc.line(Math.min(Math.max(1, p.line), doc.lines));
      return {
        from: Math.min(line.to, line.from + Math.max(0, p.column - 1)),
        to: line.to,
        severity: p.severity === "error" ? "error" : p.severity === "warning" ? "warning" : "info",
        message: p.fix == null ? p.message : `${p.message} (${p.fix})`,
      };
    });
    editor.dispatch(setDiagnostics(editor.state, found));
  }, [problems]);

  return <div className="texteditor" ref={host} />;
}

/** What two texts say differently, line by line; nothing can be changed in it. */
export function TextDifference({ path, before, after }: { path: string; before: string; after: string }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!host.current) return;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: after,
        extensions: [
          ...shared(path),
          unifiedMergeView({ original: before, mergeControls: false, collapseUnchanged: { margin: 2, minSize: 6 } }),
          EditorState.readOnly.of(true),
          EditorView.editable.of(false),
          EditorView.contentAttributes.of({ "aria-label": `What is different in ${path}`, tabindex: "0" }),
        ],
      }),
    });
    return () => editor.destroy();
  }, [path, before, after]);
  return <div className="texteditor" ref={host} />;
}
