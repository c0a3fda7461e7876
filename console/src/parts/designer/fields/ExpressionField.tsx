import { useEffect, useId, useRef, useState, type ReactNode } from "react";
import type { Spot } from "../../../core/api/client";
import type { ExpressionResult } from "../../../core/api/types";
import { ExpressionEditor, type ExpressionState } from "../../../core/designer/expressionEditor";
import { useDesigning } from "../useDesign";
import { expressionsIn } from "../../../core/designer/templates";
import { ExpressionTrial } from "./ExpressionTrial";
import { ExpressionBuilder } from "./ExpressionBuilder";
import { NamePicker } from "./NamePicker";

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
  /** More that can be done beside the label. */
  beside?: (text: string, write: (text: string) => void) => ReactNode;
  commit: (value: string) => void;
}

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
  placeholder = "",
  beside,
  commit,
}: Props) {
  const { store, pastRun } = useDesigning();
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<ExpressionEditor | null>(null);
  const [{ look, focused }, setState] = useState<ExpressionState>({ look: null, focused: false });
  const [building, setBuilding] = useState(false);
  const [trying, setTrying] = useState(false);
  const id = useId();
  const setting = { draft: store, value, spot, template, pastRun, commit };
  useEffect(() => {
    if (!host.current) return;
    const opened = new ExpressionEditor(
      host.current,
      setting,
      { multiline, placeholder, labelId: `${id}-l`, hintId: `${id}-d` },
      setState,
    );
    editor.current = opened;
    return () => opened.close();
    // One editor for the life of the field; what changes meanwhile is handed on below.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  useEffect(() => editor.current?.set(setting));
  const mistake = template && look?.wanted === "bool" ? undefined : look?.problems[0];
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
        <NamePicker spot={spot} pick={(name) => editor.current?.insertName(name)} what={label} />
        {beside?.(value, (text) => editor.current?.replace(text))}
        {value.trim() !== "" && (
          <button type="button" className="linkbutton" aria-expanded={trying} onClick={() => setTrying(!trying)}>
            {trying ? "Close" : "Try values"}
          </button>
        )}
        {builder && (
          <button type="button" className="linkbutton" aria-expanded={building} onClick={() => setBuilding(!building)}>
            {building ? "Close builder" : "Build"}
          </button>
        )}
      </div>
      <div ref={host} className="cmhost" data-template={template} />
      <div id={`${id}-d`} className="hint">
        {mistake ? (
          <span className="wrong">⨯ {mistake.message}</span>
        ) : look?.type != null ? (
          <Found look={look} run={pastRun} />
        ) : (
          description !== undefined && <span className="soft">{description}</span>
        )}
      </div>
      {trying && (
        <ExpressionTrial
          texts={
            template ? expressionsIn(editor.current?.text ?? value).map((e) => e.text) : [editor.current?.text ?? value]
          }
          spot={spot}
        />
      )}
      {building && (
        <ExpressionBuilder
          text={editor.current?.text ?? value}
          spot={spot}
          write={(text) => editor.current?.replace(text)}
        />
      )}
    </div>
  );
}

/** The type of the expression, and its value with a past run's data. */
function Found({ look, run }: { look: ExpressionResult; run: number | null }) {
  return (
    <>
      <span className="soft">{look.type}</span>
      {look.value != null && (
        <span className="livevalue">
          {" "}
          · with run {run}: <code>{look.value}</code>
        </span>
      )}
      {look.valueError != null && (
        <span className="soft">
          {" "}
          · with run {run}: {look.valueError}
        </span>
      )}
    </>
  );
}
