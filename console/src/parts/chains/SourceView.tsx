import { defaultHighlightStyle, HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { yaml } from "@codemirror/lang-yaml";
import { EditorState } from "@codemirror/state";
import { EditorView, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";

const colours = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: "var(--accent)" },
  { tag: tags.comment, color: "var(--soft)", fontStyle: "italic" },
  { tag: [tags.string, tags.content], color: "var(--ink)" },
]);

/** The chain file, to read. */
export default function SourceView({ text }: { text: string }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!host.current) return;
    const view = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          lineNumbers(),
          yaml(),
          syntaxHighlighting(colours),
          syntaxHighlighting(defaultHighlightStyle, { fallback: true }),
          EditorState.readOnly.of(true),
          EditorView.editable.of(false),
          EditorView.contentAttributes.of({
            "aria-label": "Chain file",
            tabindex: "0",
            role: "textbox",
            "aria-readonly": "true",
            "aria-multiline": "true",
          }),
        ],
      }),
    });
    return () => view.destroy();
  }, [text]);
  return <div ref={host} />;
}
