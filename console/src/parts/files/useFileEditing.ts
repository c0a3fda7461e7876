import { useEffect, useRef, useState } from "react";
import { Refused } from "../../core/api/call";
import { getFile, saveFile } from "../../core/api/files";
import type { FileAnswer, FileContent } from "../../core/api/types";
import { forget, keepJson, readJson } from "../../core/browserStore";
import { mergeEntries } from "../../core/document/entries";
import { useFileCommands } from "../../queries/files";

/** The version that is edited. */
interface Base {
  text: string;
  version: string;
}

/** Somebody else has saved meanwhile, and what they did can't be put together with this by itself. */
export interface Conflict {
  by: string;
  theirs: string;
  version: string;
  /** The entries that both have changed. */
  clash: string[];
}

interface Kept extends Base {
  mine: string;
}

const keyOf = (path: string) => `gatechain file ${path}`;

function keptOf(path: string): Kept | null {
  const kept = readJson(keyOf(path)) as Partial<Kept> | null;
  return typeof kept?.text === "string" && typeof kept.version === "string" && typeof kept.mine === "string"
    ? (kept as Kept)
    : null;
}

/**
 * A file of the workspace while somebody edits it. What is typed is kept in the browser until it is saved; of two who
 * save, the second one's entries are put to the first one's, and where both have changed the same they are asked.
 */
export function useFileEditing(path: string, content: FileContent | null, isText: boolean) {
  const { save: send } = useFileCommands();
  const [base, setBase] = useState<Base>(() => ({ text: content?.text ?? "", version: content?.file.version ?? "" }));
  const kept = useRef(keptOf(path));
  const [text, setText] = useState(() => kept.current?.mine ?? content?.text ?? "");
  const [wasKept, setWasKept] = useState(() => kept.current !== null && kept.current.mine !== (content?.text ?? ""));
  const [answer, setAnswer] = useState<FileAnswer | null>(null);
  const [conflict, setConflict] = useState<Conflict | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const [told, setTold] = useState<string | null>(null);
  const dirty = text !== base.text;
  // One save follows the other: pressed twice, it is stored once.
  const saves = useRef<Promise<unknown>>(Promise.resolve());
  const latest = useRef(text);
  latest.current = text;
  // What was typed on another version still says what it was made from.
  const madeFrom = useRef<Base>(kept.current ?? base);

  useEffect(() => {
    if (dirty) keepJson(keyOf(path), { ...madeFrom.current, mine: text } satisfies Kept);
    else forget(keyOf(path));
  }, [path, text, dirty]);

  useEffect(() => {
    if (!isText) return;
    let over = false;
    const timer = setTimeout(() => {
      saveFile({ path, text, base64: null, version: null, anyway: false, note: null })
        .then((found) => {
          if (!over) setAnswer(found);
        })
        .catch(() => {
          if (!over) setAnswer(null);
        });
    }, 250);
    return () => {
      over = true;
      clearTimeout(timer);
    };
  }, [path, text, isText]);

  const settle = (next: Base) => {
    setBase(next);
    madeFrom.current = next;
    setWasKept(false);
    setConflict(null);
    setRefused(null);
  };

  const store = async (
    mine: string,
    from: Base,
    options: { anyway: boolean; note: string | null },
  ): Promise<boolean> => {
    setRefused(null);
    try {
      const found = await send({ path, text: mine, base64: null, version: from.version, ...options });
      setAnswer(found);
      if (found.version === null) return false;
      settle({ text: mine, version: found.version });
      setText((now) => (now === mine || now === text ? mine : now));
      return true;
    } catch (e) {
      if (!(e instanceof Refused) || e.status !== 409) {
        setRefused(e instanceof Error ? e.message : String(e));
        return false;
      }
      return meet(mine, from, options);
    }
  };

  // Their version is the one to go on from: either with both put together, or as the person says.
  const meet = async (mine: string, from: Base, options: { anyway: boolean; note: string | null }) => {
    const current = await getFile(path).catch(() => null);
    const theirs = { text: current?.text ?? "", version: current?.file.version ?? "" };
    const by = current?.file.by ?? "somebody";
    if (theirs.version === from.version) {
      setRefused("Somebody else saves at this moment; try again.");
      return false;
    }
    const merged = isText ? mergeEntries(from.text, mine, theirs.text) : { clash: ["the text"] };
    if ("clash" in merged) {
      setConflict({ by, theirs: theirs.text, version: theirs.version, clash: merged.clash });
      return false;
    }
    setText(merged.text);
    setTold(`${by} had saved meanwhile; your changes were put to theirs.`);
    return store(merged.text, theirs, options);
  };

  return {
    text,
    change: (next: string) => {
      setText(next);
      setTold(null);
    },
    dirty,
    version: base.version,
    wasKept,
    answer,
    conflict,
    refused,
    told,
    save: (options = { anyway: false, note: null as string | null }) => {
      const next = saves.current.then(() =>
        // What was kept from an earlier visit may be of an older version.
        latest.current === madeFrom.current.text ? true : store(latest.current, madeFrom.current, options),
      );
      saves.current = next.catch(() => undefined);
      return next;
    },
    /** Goes on from their text; what was typed here is let go. */
    takeTheirs: () => {
      if (!conflict) return;
      setText(conflict.theirs);
      settle({ text: conflict.theirs, version: conflict.version });
    },
    /** Saves what stands here in the place of theirs; theirs stays among the versions. */
    saveOver: () =>
      conflict
        ? store(text, { text: conflict.theirs, version: conflict.version }, { anyway: false, note: null })
        : null,
    discard: () => {
      setText(base.text);
      settle(base);
    },
  };
}

export type FileEditing = ReturnType<typeof useFileEditing>;
