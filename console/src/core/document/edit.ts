import { parse } from "yaml";
import { at, YamlText, type Path, type YamlEntry, type YamlList, type YamlMap, type YamlNode } from "./tree";
import { writeKey } from "./scalar";
import { writeBlock, writeFlow, writeValue } from "./write";

/**
 * Some characters of a text replaced by others. Whatever is not named stays as it is: order, comments, blanks, quotes.
 */
export interface TextChange {
  from: number;
  to: number;
  insert: string;
}

/** The text after changes that do not touch each other. */
export function applyChanges(text: string, changes: readonly TextChange[]): string {
  let result = text;
  for (const change of [...changes].sort((a, b) => b.from - a.from || b.to - a.to))
    result = result.slice(0, change.from) + change.insert + result.slice(change.to);
  return result;
}

/** Keys in the order in which people read them; a new one is put after those that come before it. */
const order = [
  "chain",
  "kind",
  "title",
  "notes",
  "quiet",
  "params",
  "vars",
  "defaults",
  "lane",
  "whenBusy",
  "onFailure",
  "dueIn",
  "recover",
  "from",
  "to",
  "on",
  "match",
  "branch",
  "name",
  "type",
  "label",
  "initial",
  "default",
  "disabled",
  "join",
  "guard",
  "probes",
  "rules",
  "otherwise",
  "branches",
  "over",
  "until",
  "while",
  "as",
  "limit",
  "pause",
  "atLimit",
  "parallel",
  "tolerate",
  "collect",
  "inputs",
  "wait",
  "release",
  "resumeAs",
  "set",
  "retry",
  "timeout",
  "expect",
  "assign",
  "ifFails",
  "onCrash",
  "crashLimit",
  "onResume",
  "steps",
  "gates",
  "when",
  "verdict",
  "message",
  "handlers",
  "outputs",
  "layout",
];

const column = (text: string, offset: number) => offset - (text.lastIndexOf("\n", offset - 1) + 1);
const lineEnd = (text: string, offset: number) => {
  const end = text.indexOf("\n", offset);
  return end < 0 ? text.length : end;
};

/** Sets what stands at a path; what is missing on the way is made, and undefined takes it away. */
export function setAt(document: YamlText, path: Path, value: unknown): TextChange[] {
  if (value === undefined) return removeAt(document, path);
  const { text } = document;
  const root = document.root;
  const key = path.at(-1);
  if (key === undefined) return [{ from: 0, to: text.length, insert: `${writeBlock(value, 0)}\n` }];
  const parent = at(root, path.slice(0, -1));
  if (parent?.kind === "map" && typeof key === "string") {
    const entry = parent.entries.find((e) => e.key === key);
    return entry ? [replaceValue(text, parent, entry, value)] : [insertEntry(text, parent, key, value)];
  }
  if (parent?.kind === "list" && typeof key === "number") {
    const item = parent.items[key];
    return item
      ? [{ from: item.value?.from ?? item.to, to: item.value?.to ?? item.to, insert: writeFlow(value, parent.flow) }]
      : [insertItem(text, parent, value)];
  }
  // The mapping or list around it is not there yet, or is something else.
  return setAt(document, path.slice(0, -1), typeof key === "number" ? [value] : { [key]: value });
}

function replaceValue(text: string, map: YamlMap, entry: YamlEntry, value: unknown): TextChange {
  const from = Math.max(entry.keyTo, text.indexOf(":", entry.keyTo) + 1);
  const to = entry.value?.to ?? from;
  if (map.flow) return { from, to, insert: ` ${writeFlow(value)}` };
  const written = writeValue(value, column(text, entry.keyFrom));
  // A scalar keeps the blanks that were put before it to line things up.
  if (entry.value?.kind === "scalar" && !written.includes("\n") && !text.slice(from, entry.value.from).includes("\n"))
    return { from: entry.value.from, to, insert: written.trimStart() };
  return { from, to, insert: written };
}

function insertEntry(text: string, map: YamlMap, key: string, value: unknown): TextChange {
  const rank = order.indexOf(key);
  const before =
    rank < 0
      ? map.entries.at(-1)
      : (map.entries.filter((e) => order.indexOf(e.key) >= 0 && order.indexOf(e.key) < rank).at(-1) ??
        (map.entries.some((e) => order.indexOf(e.key) > rank) ? undefined : map.entries.at(-1)));
  if (map.flow) {
    const written = `${writeKey(key)}: ${writeFlow(value)}`;
    if (map.entries.length === 0) return { from: map.from, to: map.to, insert: `{ ${written} }` };
    return before
      ? { from: before.to, to: before.to, insert: `, ${written}` }
      : { from: map.entries[0]?.from ?? map.from, to: map.entries[0]?.from ?? map.from, insert: `${written}, ` };
  }
  const first = map.entries[0];
  const indent = column(text, first?.keyFrom ?? map.from);
  const written = `${writeKey(key)}:${writeValue(value, indent, key === "steps")}`;
  if (before)
    return {
      from: lineEnd(text, before.to),
      to: lineEnd(text, before.to),
      insert: `\n${" ".repeat(indent)}${written}`,
    };
  return {
    from: first?.keyFrom ?? map.from,
    to: first?.keyFrom ?? map.from,
    insert: `${written}\n${" ".repeat(indent)}`,
  };
}

function insertItem(text: string, list: YamlList, value: unknown): TextChange {
  const last = list.items.at(-1);
  if (list.flow)
    return last
      ? { from: last.to, to: last.to, insert: `, ${writeFlow(value)}` }
      : { from: list.from, to: list.to, insert: `[${writeFlow(value)}]` };
  const dash = list.from;
  const indent = column(text, dash);
  const end = lineEnd(text, last?.to ?? list.to);
  return { from: end, to: end, insert: `\n${writeBlock([value], indent)}` };
}

/**
 * Takes away what stands at a path, with the comments right above it; a mapping or list that is left empty goes too.
 */
export function removeAt(document: YamlText, path: Path): TextChange[] {
  const { text } = document;
  const key = path.at(-1);
  const parent = at(document.root, path.slice(0, -1));
  if (!parent || parent.kind === "scalar") return [];
  const whole: { from: number; to: number }[] = parent.kind === "map" ? parent.entries : parent.items;
  const index = parent.kind === "map" ? parent.entries.findIndex((e) => e.key === key) : Number(key);
  const part = whole[index];
  if (!part) return [];
  if (whole.length === 1) {
    if (path.length < 2) return [{ from: parent.from, to: parent.to, insert: "{}" }];
    // A chain without steps still has the key.
    return path.at(-2) === "steps"
      ? [emptyValue(text, document, path.slice(0, -1))]
      : removeAt(document, path.slice(0, -1));
  }
  if (parent.flow) {
    const next = whole[index + 1];
    if (next) return [{ from: part.from, to: next.from, insert: "" }];
    return [{ from: whole[index - 1]?.to ?? part.from, to: part.to, insert: "" }];
  }
  return [
    { ...lines(text, parent.kind === "list" ? { from: dashOf(text, part.from), to: part.to } : part), insert: "" },
  ];
}

function emptyValue(text: string, document: YamlText, path: Path): TextChange {
  const parent = at(document.root, path.slice(0, -1)) as YamlMap;
  const entry = parent.entries.find((e) => e.key === path.at(-1)) as YamlEntry;
  return { from: text.indexOf(":", entry.keyTo) + 1, to: entry.to, insert: " {}" };
}

/** The whole lines of a block entry or item, comments right above it included. */
export function lines(text: string, part: { from: number; to: number }): { from: number; to: number } {
  let from = text.lastIndexOf("\n", part.from - 1) + 1;
  const indent = column(text, part.from);
  // The first entry of an item stands behind the dash.
  if (text.slice(from, part.from).trim() !== "") from = part.from;
  else {
    for (;;) {
      const above = text.lastIndexOf("\n", from - 2) + 1;
      const line = text.slice(above, Math.max(above, from - 1));
      if (from === 0 || !line.trimStart().startsWith("#") || line.length - line.trimStart().length !== indent) break;
      from = above;
    }
  }
  const end = lineEnd(text, part.to);
  return { from, to: Math.min(text.length, end + 1) };
}

/** Puts an item of a list at another place; whole lines move, with their comments. */
export function moveItem(document: YamlText, path: Path, index: number, to: number): TextChange[] {
  const list = at(document.root, path);
  if (list?.kind !== "list" || index === to || !list.items[index] || !list.items[to]) return [];
  const { text } = document;
  const spans = list.items.map((item) =>
    list.flow ? { from: item.from, to: item.to } : lines(text, { from: dashOf(text, item.from), to: item.to }),
  );
  const texts = spans.map((s) => text.slice(s.from, s.to)).map((t) => (list.flow || t.endsWith("\n") ? t : `${t}\n`));
  const [moved] = texts.splice(index, 1);
  texts.splice(to, 0, moved ?? "");
  return spans.map((s, i) => ({ ...s, insert: texts[i] ?? "" })).filter((c) => text.slice(c.from, c.to) !== c.insert);
}

/** Changes places of an entry of a mapping and the one before or behind it; whole lines move, with their comments. */
export function moveEntry(document: YamlText, path: Path, key: string, by: -1 | 1): TextChange[] {
  const map = at(document.root, path);
  if (map?.kind !== "map") return [];
  const index = map.entries.findIndex((e) => e.key === key);
  const [first, second] = [map.entries[Math.min(index, index + by)], map.entries[Math.max(index, index + by)]];
  if (index < 0 || !first || !second) return [];
  const { text } = document;
  const span = (e: YamlEntry) => (map.flow ? { from: e.from, to: e.to } : lines(text, e));
  const [above, below] = [span(first), span(second)];
  const ended = (part: string) => (map.flow || part.endsWith("\n") ? part : `${part}\n`);
  const [upper, lower] = [ended(text.slice(above.from, above.to)), ended(text.slice(below.from, below.to))];
  // The last line of a file may have no end, and keeps none.
  const last = text.slice(below.from, below.to).endsWith("\n") || map.flow ? upper : upper.replace(/\n$/, "");
  return [
    { ...above, insert: lower },
    { ...below, insert: last },
  ];
}

/** An item begins behind its dash. */
const dashOf = (text: string, from: number) => text.lastIndexOf("-", from - 1);

/** The text of a node by itself, moved to the left edge. */
export function excerpt(text: string, node: YamlNode): string {
  const indent = column(text, node.from);
  // What is said behind its last line belongs to it.
  const to = node.kind === "map" && !node.flow ? lineEnd(text, node.to) : node.to;
  return text
    .slice(node.from, to)
    .split("\n")
    .map((line, i) => (i === 0 ? line : line.slice(Math.min(indent, line.length - line.trimStart().length))))
    .join("\n");
}

/** Puts lines of YAML under a key of a block mapping, as they are but for their indent. */
export function insertLines(document: YamlText, path: Path, key: string, body: string): TextChange[] {
  const { text } = document;
  const map = at(document.root, path);
  if (map?.kind !== "map" || map.entries.length === 0 || map.flow) {
    const owner = at(document.root, path.slice(0, -1));
    // What stands between braces has no lines of its own to put anything below.
    if (owner?.kind === "map" && owner.flow) return setAt(document, [...path, key], parse(body) as unknown);
    const indent =
      owner?.kind === "map" && !owner.flow && owner.entries[0]
        ? column(text, owner.entries[0].keyFrom) + 2
        : 2 * path.length;
    const insert = `\n${indented(`${key}:${body}`, indent)}`;
    const name = path.at(-1) as string;
    const entry = owner?.kind === "map" ? owner.entries.find((e) => e.key === name) : undefined;
    if (entry) return [{ from: text.indexOf(":", entry.keyTo) + 1, to: entry.to, insert }];
    return setAt(document, path, {}).map((c) => ({ ...c, insert: c.insert.replace(/ ?\{\}$/, "") + insert }));
  }
  const last = map.entries.at(-1);
  const end = lineEnd(text, last?.to ?? map.to);
  return [
    {
      from: end,
      to: end,
      insert: `\n${indented(`${key}:${body}`, column(text, map.entries[0]?.keyFrom ?? map.from))}`,
    },
  ];
}

const indented = (text: string, indent: number) =>
  text
    .split("\n")
    .map((line) => (line === "" ? "" : " ".repeat(indent) + line))
    .join("\n");
