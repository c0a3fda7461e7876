import { useEffect, useRef, useState } from "react";
import { Echoes } from "../../../core/designer/echoes";
import { whenPointerIsUp } from "../../../core/designer/whenPointerIsUp";

const COMMIT_AFTER = 250;

/** What is typed shows at once; it becomes an edit of the draft when the typing pauses, and when the field is left. */
export function useField(value: string, commit: (value: string) => void) {
  const [text, setText] = useState(value);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const echoes = useRef(new Echoes());
  const now = useRef({ text, value, commit });
  now.current = { text, value, commit };
  const flush = () => {
    clearTimeout(timer.current);
    timer.current = undefined;
    if (now.current.text === now.current.value) return;
    echoes.current.send(now.current.text);
    now.current.commit(now.current.text);
  };
  useEffect(() => {
    // What comes from elsewhere is shown, unless somebody is typing.
    const stale = echoes.current.isStale(value);
    if (!stale && timer.current === undefined) setText(value);
  }, [value]);
  useEffect(() => {
    // A page that is left or loaded again takes along what was just typed.
    window.addEventListener("pagehide", flush);
    return () => {
      window.removeEventListener("pagehide", flush);
      flush();
    };
  }, []);
  return {
    value: text,
    onChange: (next: string) => {
      setText(next);
      now.current.text = next;
      clearTimeout(timer.current);
      timer.current = setTimeout(() => whenPointerIsUp(flush), COMMIT_AFTER);
    },
    onBlur: () => whenPointerIsUp(flush),
    /** Makes it an edit now. */
    flush,
  };
}
