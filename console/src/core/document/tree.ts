import { TreeFragment, type SyntaxNode, type Tree } from "@lezer/common";
import { parser } from "@lezer/yaml";
import { scalarValue } from "./scalar";

/** A piece of YAML with its place in the text; `to` is behind its last character. */
export type YamlNode = YamlMap | YamlList | YamlScalar;

export interface YamlMap {
  kind: "map";
  flow: boolean;
  from: number;
  to: number;
  entries: YamlEntry[];
}

export interface YamlEntry {
  key: string;
  keyFrom: number;
  keyTo: number;
  /** Null when nothing stands behind the colon. */
  value: YamlNode | null;
  from: number;
  to: number;
}

export interface YamlList {
  kind: "list";
  flow: boolean;
  from: number;
  to: number;
  items: { from: number; to: number; value: YamlNode | null }[];
}

export interface YamlScalar {
  kind: "scalar";
  from: number;
  to: number;
  value: unknown;
}

/** A text with its syntax tree; a next version is parsed only where it differs. */
export class YamlText {
  readonly #tree: Tree;

  constructor(
    readonly text: string,
    before?: YamlText,
  ) {
    this.#tree = before ? parser.parse(text, fragments(before, text)) : parser.parse(text);
  }

  get tree() {
    return this.#tree;
  }

  #root: YamlNode | null | undefined;

  /** The content of the file; null when there is none. */
  get root(): YamlNode | null {
    if (this.#root === undefined) {
      const document = this.#tree.topNode.getChild("Document");
      this.#root = document ? readFirst(document, this.text) : null;
    }
    return this.#root;
  }
}

function fragments(before: YamlText, text: string) {
  const { from, toA, toB } = difference(before.text, text);
  return TreeFragment.applyChanges(TreeFragment.addTree(before.tree), [{ fromA: from, toA, fromB: from, toB }]);
}

/** Where two texts begin and end to differ. */
export function difference(a: string, b: string): { from: number; toA: number; toB: number } {
  let from = 0;
  const shortest = Math.min(a.length, b.length);
  while (from < shortest && a.charCodeAt(from) === b.charCodeAt(from)) from++;
  let tail = 0;
  while (tail < shortest - from && a.charCodeAt(a.length - 1 - tail) === b.charCodeAt(b.length - 1 - tail)) tail++;
  return { from, toA: a.length - tail, toB: b.length - tail };
}

const contents = new Set([
  "BlockMapping",
  "FlowMapping",
  "BlockSequence",
  "FlowSequence",
  "Literal",
  "QuotedLiteral",
  "BlockLiteral",
]);

function readFirst(parent: SyntaxNode, text: string): YamlNode | null {
  for (let child = parent.firstChild; child; child = child.nextSibling) {
    if (contents.has(child.name)) return readNode(child, text);
    // An anchor or tag stands before its value.
    if (child.name === "Tagged" || child.name === "Anchored") return readFirst(child, text);
  }
  return null;
}

function readNode(node: SyntaxNode, text: string): YamlNode {
  switch (node.name) {
    case "BlockMapping":
    case "FlowMapping":
      return readMap(node, text);
    case "BlockSequence":
    case "FlowSequence":
      return readList(node, text);
    default: {
      const to = trimEnd(text, node.from, node.to);
      return { kind: "scalar", from: node.from, to, value: scalarValue(text.slice(node.from, to)) };
    }
  }
}

// The parser lets a block begin at the line break before it; here it begins with its first key or dash.
function readMap(node: SyntaxNode, text: string): YamlMap {
  const entries = node.getChildren("Pair").map((pair) => readPair(pair, text));
  const flow = node.name === "FlowMapping";
  return { kind: "map", flow, from: flow ? node.from : (entries[0]?.keyFrom ?? node.from), to: node.to, entries };
}

function readList(node: SyntaxNode, text: string): YamlList {
  const items = node
    .getChildren("Item")
    .map((item) => ({ from: item.from, to: trimEnd(text, item.from, item.to), value: readFirst(item, text) }));
  const flow = node.name === "FlowSequence";
  return {
    kind: "list",
    flow,
    from: flow || !items[0] ? node.from : text.lastIndexOf("-", items[0].from - 1),
    to: node.to,
    items,
  };
}

function readPair(pair: SyntaxNode, text: string): YamlEntry {
  const key = pair.getChild("Key") ?? pair;
  const keyTo = key === pair ? pair.to : trimEnd(text, key.from, key.to);
  let value: YamlNode | null = null;
  for (let child = key === pair ? null : key.nextSibling; child; child = child.nextSibling) {
    if (contents.has(child.name)) value = readNode(child, text);
  }
  const to = value ? value.to : Math.max(keyTo, text.indexOf(":", keyTo) + 1);
  return {
    key: String(scalarValue(text.slice(key.from, keyTo))),
    keyFrom: key.from,
    keyTo,
    value,
    from: pair.from,
    to,
  };
}

function trimEnd(text: string, from: number, to: number): number {
  let end = to;
  while (end > from && /\s/.test(text.charAt(end - 1))) end--;
  return end;
}

/** What stands in a mapping under a key. */
export const child = (node: YamlNode | null | undefined, key: string): YamlNode | null =>
  node?.kind === "map" ? (node.entries.find((e) => e.key === key)?.value ?? null) : null;

export type Path = readonly (string | number)[];

/** What stands at a path: names of keys, numbers of items from 0. */
export function at(node: YamlNode | null, path: Path): YamlNode | null {
  let found = node;
  for (const part of path) {
    if (typeof part === "string") found = child(found, part);
    else found = found?.kind === "list" ? (found.items[part]?.value ?? null) : null;
  }
  return found;
}

/** The plain value of a node: objects, lists, texts, numbers. */
export function plain(node: YamlNode | null): unknown {
  if (node === null) return null;
  if (node.kind === "scalar") return node.value;
  if (node.kind === "list") return node.items.map((i) => plain(i.value));
  return Object.fromEntries(node.entries.map((e) => [e.key, plain(e.value)]));
}
