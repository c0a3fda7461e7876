import {
  autocompletion,
  completionKeymap,
  type CompletionContext,
  type CompletionResult,
} from "@codemirror/autocomplete";
import { defaultKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import {
  defaultHighlightStyle,
  HighlightStyle,
  indentOnInput,
  indentUnit,
  syntaxHighlighting,
} from "@codemirror/language";
import { lintGutter, setDiagnostics, type Diagnostic } from "@codemirror/lint";
import { Annotation, EditorState } from "@codemirror/state";
import { drawSelection, EditorView, highlightActiveLine, hoverTooltip, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { choicesOf } from "../../../core/designer/schema";
import { placeOf, schemaAt, type FileSchema } from "../../../core/designer/sourceHelp";
import { difference } from "../../../core/document/tree";
import { useDesign, useDesigning } from "../useDesign";
import { chainSchemaQuery } from "../../../queries/design";

const fromOutside = Annotation.define<boolean>();

const colours = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: "var(--accent)" },
  { tag: tags.comment, color: "var(--soft)", fontStyle: "italic" },
  { tag: [tags.string, tags.content], color: "var(--ink)" },
]);

/**
 * The chain file, to write: completion and help from its JSON Schema, problems at their lines; canvas and text are the
 * same draft.
 */
export default function SourceEditor({ lead }: { lead: { offset: number; count: number } | null }) {
  const { store, context } = useDesigning();
  const state = useDesign(store);
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const { data: schema } = useQuery(chainSchemaQuery);
  const help = useRef({ schema: null as FileSchema | null, context });
  help.current = { schema: (schema as FileSchema | undefined) ?? null, context };

  useEffect(() => {
    if (!host.current) return;
    const complete = (context: CompletionContext): CompletionResult | null => {
      const file = help.current.schema;
      const line = context.state.doc.lineAt(context.pos);
      const typed = /[\w.-]*$/.exec(line.text.slice(0, context.pos - line.from))?.[0] ?? "";
      if (!file || (typed === "" && !context.explicit)) return null;
      const { path, key } = placeOf(context.state.doc.toString(), context.pos);
      const at = schemaAt(file, store.state.design.file.root, key === null ? path : [...path, key]);
      if (!at) return null;
      if (key === null) {
        const options = Object.entries(at.properties ?? {}).map(([label, s]) => ({
          label,
          apply: `${label}: `,
          info: s.description?.replaceAll("`", ""),
          type: "property",
          boost: at.required?.includes(label) === true ? 2 : 0,
        }));
        return options.length === 0 ? null : { from: context.pos - typed.length, options, validFor: /^[\w.-]*$/ };
      }
      const names =
        at["x-pick"] === "connection"
          ? help.current.context.connections.map((c) => c.name)
          : at["x-pick"] === "lane"
            ? help.current.context.lanes
            : at["x-pick"] === "chain"
              ? help.current.context.chains.map((c) => c.name)
              : key === "from" || key === "to"
                ? [...store.state.design.steps.values()].map((s) => s.id)
                : at["x-form"] === "bool"
                  ? ["true", "false"]
                  : choicesOf(at);
      return names.length === 0
        ? null
        : {
            from: context.pos - typed.length,
            options: names.map((label) => ({ label, type: "enum" })),
            validFor: /^[\w.-]*$/,
          };
    };
    const hover = hoverTooltip((editor, pos) => {
      const line = editor.state.doc.lineAt(pos);
      const match = /^(\s*(?:- +)*)([\w./@-]+):/.exec(line.text);
      if (!match || !help.current.schema || pos > line.from + match[0].length) return null;
      const { path } = placeOf(
        editor.state.doc.toString(),
        line.from + (match[1] ?? "").length + (match[2] ?? "").length,
      );
      const doc = schemaAt(help.current.schema, store.state.design.file.root, [...path, match[2] ?? ""])?.description;
      if (doc === undefined) return null;
      return {
        pos: line.from + (match[1] ?? "").length,
        end: line.from + match[0].length,
        create: () => {
          const dom = document.createElement("div");
          dom.className = "partvalue";
          dom.textContent = doc.replaceAll("`", "");
          return { dom };
        },
      };
    });
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: store.text,
        extensions: [
          lineNumbers(),
          lintGutter(),
          highlightActiveLine(),
          drawSelection(),
          indentOnInput(),
          indentUnit.of("  "),
          yaml(),
          syntaxHighlighting(colours),
          syntaxHighlighting(defaultHighlightStyle, { fallback: true }),
          autocompletion({ override: [complete], icons: false }),
          hover,
          keymap.of([
            { key: "Mod-z", run: () => (store.undo(), true) },
            { key: "Mod-y", run: () => (store.redo(), true) },
            { key: "Mod-Shift-z", run: () => (store.redo(), true) },
            ...completionKeymap,
            indentWithTab,
            ...defaultKeymap,
          ]),
          EditorView.contentAttributes.of({ "aria-label": "Chain file", tabindex: "0" }),
          EditorView.updateListener.of((u) => {
            if (u.docChanged && !u.transactions.some((t) => t.annotation(fromOutside) === true))
              store.apply({ text: u.state.doc.toString() }, true);
            else if (u.selectionSet && u.view.hasFocus && !u.docChanged) {
              const part = store.state.design.partAt(u.state.selection.main.head);
              store.select(
                part === null
                  ? { steps: [], gate: null }
                  : "step" in part
                    ? { steps: [part.step], gate: null }
                    : { steps: [], gate: part.gate },
              );
            }
          }),
        ],
      }),
    });
    view.current = editor;
    return () => {
      view.current = null;
      editor.destroy();
    };
  }, [store]);

  // What was changed elsewhere comes as the smallest change, so that cursor, scroll and folds stay.
  const text = state.design.file.text;
  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const shown = editor.state.doc.toString();
    if (shown === text) return;
    const { from, toA, toB } = difference(shown, text);
    editor.dispatch({ changes: { from, to: toA, insert: text.slice(from, toB) }, annotations: fromOutside.of(true) });
  }, [text]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || !state.checked || editor.state.doc.toString() !== text) return;
    const marks = state.problems.map((p): Diagnostic => {
      const from = Math.min(p.start, text.length);
      return {
        from,
        // What is missing has a place and no length; it shows on the character that stands there.
        to: Math.min(text.length, Math.max(p.end, from + 1)),
        severity: p.severity === "hint" ? "info" : (p.severity as "error" | "warning"),
        message: `${p.code}: ${p.message}${p.fix == null ? "" : ` (${p.fix})`}`,
      };
    });
    editor.dispatch(setDiagnostics(editor.state, marks));
  }, [state.problems, state.checked, text]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || lead === null) return;
    const at = Math.min(lead.offset, editor.state.doc.length);
    editor.dispatch({ selection: { anchor: at }, effects: EditorView.scrollIntoView(at, { y: "center" }) });
  }, [lead]);

  return <div ref={host} className="sourceeditor" />;
}
