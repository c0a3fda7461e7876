import { Design, type DesignScope, type DesignStep } from "../document/design";
import {
  applyChanges,
  excerpt,
  insertLines,
  moveEntry,
  moveItem,
  removeAt,
  setAt,
  type TextChange,
} from "../document/edit";
import { at, YamlText, type Path } from "../document/tree";
import { occasionOf } from "../graph/bands";
import { idOf, inScope, scopeOf } from "../stepPath";

/** What is chosen: steps by address, one gate, or one handler. */
export interface Selection {
  steps: readonly string[];
  gate: { scope: string; index: number } | null;
  /** A handler as a whole, `@failure`. */
  band?: string;
}

export const nothing: Selection = { steps: [], gate: null };

/** A design after an edit, and what is chosen then. */
export interface Edited {
  text: string;
  select?: Selection;
  /** Whether what is chosen is what was chosen before, under another name. */
  renamed?: boolean;
}

/** Edits one after the other; each sees the text the one before it left. */
class Editing {
  constructor(public file: YamlText) {}
  do(change: (file: YamlText) => TextChange[]): this {
    this.file = new YamlText(applyChanges(this.file.text, change(this.file)), this.file);
    return this;
  }
  get design() {
    return new Design(this.file);
  }
}

/** A name that no step of the chain has: steps must not hide each other. */
export function freeId(design: Design, wish: string, taken: ReadonlySet<string> = new Set()): string {
  const used = new Set([...design.steps.values()].map((s) => s.id));
  const isFree = (id: string) => !used.has(id) && !taken.has(id);
  if (isFree(wish)) return wish;
  for (let number = 2; ; number++) {
    const id = `${wish.replace(/_\d+$/, "")}_${String(number)}`;
    if (isFree(id)) return id;
  }
}

const containers = new Set(["group", "each", "repeat"]);

/** What a new step of a kind begins with: only what cannot be left out and has an obvious start. */
function beginning(kind: string): string {
  const lines = [`kind: ${kind}`];
  if (kind === "decide") lines.push("branches:", "  - { name: otherwise, otherwise: true }");
  if (kind === "repeat") lines.push("limit: 10");
  if (containers.has(kind)) lines.push("steps: {}");
  return `\n${lines.map((l) => `  ${l}`).join("\n")}`;
}

/** Adds a step to a scope; with `after`, and a gate from that step. */
export function addStep(
  design: Design,
  scope: string,
  kind: string,
  after: string | null,
  place: [number, number] | null,
): Edited & { id: string } {
  const id = freeId(design, kind);
  const home = design.scopes.get(scope) ?? design.root;
  const editing = new Editing(design.file).do((f) => insertLines(f, [...home.path, "steps"], id, beginning(kind)));
  if (after !== null && home.steps.some((s) => s.id === after)) {
    const from = home.steps.find((s) => s.id === after);
    editing.do((f) => setAt(f, [...home.path, "gates", home.gates.length], newGate(f, home, from, id)));
  }
  const address = inScope(home.address, id);
  if (place) editing.do((f) => setAt(f, ["layout", address], place.map(Math.round)));
  return { id: address, text: editing.file.text, select: { steps: [address], gate: null } };
}

/** Adds a step between the two ends of a gate; what opened the gate opens the first of the two that are there then. */
export function addBetween(
  design: Design,
  scope: string,
  gate: number,
  kind: string,
  place: [number, number] | null,
): Edited & { id: string } {
  const added = addStep(design, scope, kind, null, place);
  return { ...added, text: rejoin(new Design(new YamlText(added.text, design.file)), scope, gate, idOf(added.id)) };
}

/** Puts a step that has no gates between the two ends of a gate. */
export function putBetween(design: Design, scope: string, gate: number, step: string): Edited {
  return { text: rejoin(design, scope, gate, idOf(step)), select: { steps: [step], gate: null } };
}

function rejoin(design: Design, scope: string, gate: number, id: string): string {
  const home = design.scopes.get(scope) ?? design.root;
  const found = design.gate(scope, gate);
  if (!found) return design.file.text;
  const step = home.steps.find((s) => s.id === id);
  return new Editing(design.file)
    .do((f) => setAt(f, [...found.path, "to"], id))
    .do((f) => setAt(f, [...home.path, "gates", listLength(design, home)], newGate(f, home, step, found.to))).file.text;
}

// A gate from a decide step takes the first branch that has none yet.
function newGate(file: YamlText, home: DesignScope, from: DesignStep | undefined, to: string): Record<string, unknown> {
  if (from?.kind !== "decide") return { from: from?.id, to };
  const branches = at(file.root, [...from.path, "branches"]);
  const names =
    branches?.kind === "list"
      ? branches.items
          .map((_, i) => at(branches, [i, "name"]))
          .flatMap((n) => (n?.kind === "scalar" ? [String(n.value)] : []))
      : [];
  const taken = home.gates
    .filter((g) => g.from === from.id)
    .map((g) => at(file.root, [...g.path, "branch"]))
    .flatMap((n) => (n?.kind === "scalar" ? [String(n.value)] : []));
  return { from: from.id, to, branch: names.find((n) => !taken.includes(n)) };
}

/** Why two steps can't be joined by a gate; null when they can. */
export function whyNoGate(design: Design, from: string, to: string): string | null {
  if (from === to) return "A step can't wait for itself.";
  if (scopeOf(from) !== scopeOf(to))
    return "A gate joins steps of the same container; put both into one, or draw it from the container itself.";
  const scope = design.scopes.get(scopeOf(from));
  const reach = new Set([idOf(to)]);
  for (let size = 0; size !== reach.size;) {
    size = reach.size;
    for (const gate of scope?.gates ?? []) if (reach.has(gate.from)) reach.add(gate.to);
  }
  return reach.has(idOf(from))
    ? `“${idOf(from)}” already waits for “${idOf(to)}”: this gate would close a circle. To do things again, use repeat or retry.`
    : null;
}

/** Draws a gate between two steps of one scope; chooses the one that is there when there is one. */
export function connect(design: Design, from: string, to: string): Edited {
  const scope = design.scopes.get(scopeOf(from)) ?? design.root;
  const known = scope.gates.find((g) => g.from === idOf(from) && g.to === idOf(to));
  if (known && design.steps.get(from)?.kind !== "decide")
    return { text: design.file.text, select: { steps: [], gate: { scope: scope.address, index: known.index } } };
  const index = listLength(design, scope);
  const text = applyChanges(
    design.file.text,
    setAt(design.file, [...scope.path, "gates", index], newGate(design.file, scope, design.steps.get(from), idOf(to))),
  );
  return { text, select: { steps: [], gate: { scope: scope.address, index } } };
}

function listLength(design: Design, scope: DesignScope): number {
  const gates = at(design.file.root, [...scope.path, "gates"]);
  return gates?.kind === "list" ? gates.items.length : 0;
}

/** Takes away steps with their gates and places, a gate, or a handler with all that is in it. */
export function remove(design: Design, selection: Selection): Edited {
  const editing = new Editing(design.file);
  if (selection.gate) {
    const gate = design.gate(selection.gate.scope, selection.gate.index);
    if (gate) editing.do((f) => removeAt(f, gate.path));
    return { text: editing.file.text, select: nothing };
  }
  if (selection.band !== undefined) {
    const [placed, band] = [[...design.placed.keys()], `${selection.band}/`];
    for (const address of placed.filter((p) => p.startsWith(band))) editing.do((f) => removeAt(f, ["layout", address]));
    editing.do((f) => removeAt(f, ["handlers", occasionOf(band.slice(0, -1))]));
  }
  for (const address of outermost(selection.steps)) {
    const step = editing.design.steps.get(address);
    if (!step) continue;
    const scope = editing.design.scopes.get(step.scope);
    for (const gate of [...(scope?.gates ?? [])].reverse())
      if (gate.from === step.id || gate.to === step.id) editing.do((f) => removeAt(f, gate.path));
    editing.do((f) => removeAt(f, step.path));
    for (const placed of design.placed.keys())
      if (placed === address || placed.startsWith(`${address}/`)) editing.do((f) => removeAt(f, ["layout", placed]));
  }
  return { text: editing.file.text, select: nothing };
}

/** Of steps and what is inside of them, only the outer ones. */
const outermost = (addresses: readonly string[]) =>
  addresses.filter((a) => !addresses.some((b) => a !== b && a.startsWith(`${b}/`)));

/** Adds the handler of an occasion, or chooses the one that is there. */
export function addHandler(design: Design, occasion: string): Edited {
  const select = { ...nothing, band: `@${occasion}` };
  if (design.scopes.has(select.band)) return { text: design.file.text, select };
  return {
    text: applyChanges(design.file.text, insertLines(design.file, ["handlers"], occasion, "\n  steps: {}")),
    select,
  };
}

/** Sets a key of a step, a gate or the chain. */
export const setKey = (design: Design, path: Path, value: unknown): Edited => ({
  text: applyChanges(design.file.text, setAt(design.file, path, value)),
});

/** Sets several keys of one part in one edit; those that are undefined go. */
export function setKeys(design: Design, path: Path, values: Readonly<Record<string, unknown>>): Edited {
  const editing = new Editing(design.file);
  for (const [key, value] of Object.entries(values)) editing.do((f) => setAt(f, [...path, key], value));
  return { text: editing.file.text };
}

export const moveRule = (design: Design, path: Path, index: number, to: number): Edited => ({
  text: applyChanges(design.file.text, moveItem(design.file, path, index, to)),
});

/** Moves an entry of a mapping up or down: people are asked for parameters in the order of the file. */
export const moveKey = (design: Design, path: Path, key: string, by: -1 | 1): Edited => ({
  text: applyChanges(design.file.text, moveEntry(design.file, path, key, by)),
});

/** Puts steps at places of their own. */
export function place(design: Design, places: ReadonlyMap<string, [number, number]>): Edited {
  const editing = new Editing(design.file);
  for (const [address, [x, y]] of places)
    editing.do((f) => setAt(f, ["layout", address], [Math.round(x), Math.round(y)]));
  return { text: editing.file.text };
}

/** Lets the layout decide about all places again. */
export const tidy = (design: Design): Edited => ({
  text: applyChanges(design.file.text, removeAt(design.file, ["layout"])),
});

/** Steps, with the gates among them, as a piece of YAML of its own. */
export function copy(design: Design, addresses: readonly string[]): string {
  const outer = outermost(addresses).flatMap((a) => design.steps.get(a) ?? []);
  const ids = new Set(outer.map((s) => s.id));
  const scope = outer[0]?.scope ?? "";
  const steps = outer.map((s) => {
    const node = at(design.file.root, s.path);
    if (!node) return `  ${s.id}:`;
    return node.kind === "map" && !node.flow
      ? `  ${s.id}:\n${indent(excerpt(design.file.text, node), 4)}`
      : `  ${s.id}: ${design.file.text.slice(node.from, node.to)}`;
  });
  const gates = (design.scopes.get(scope)?.gates ?? [])
    .filter((g) => ids.has(g.from) && ids.has(g.to))
    .map((g) => {
      const node = at(design.file.root, g.path);
      return node ? indent(`- ${excerpt(design.file.text, node).replaceAll("\n", "\n  ")}`, 2) : "";
    });
  return `steps:\n${steps.join("\n")}\n${gates.length > 0 ? `gates:\n${gates.join("\n")}\n` : ""}`;
}

const indent = (text: string, by: number) =>
  text
    .split("\n")
    .map((line) => (line === "" ? "" : " ".repeat(by) + line))
    .join("\n");

/** Whether a text is what `copy` gives. */
export const isCopied = (text: string) =>
  text.length < 1 << 20 && /^steps:\s*\n/.test(text) && new Design(new YamlText(text)).root.steps.length > 0;

/** The names that pasted steps have to give up because they are taken: old name, new name. */
export function takenIds(design: Design, clip: string): [string, string][] {
  const taken = new Set<string>();
  return [...new Design(new YamlText(clip)).steps.values()].flatMap((step): [string, string][] => {
    const id = freeId(design, step.id, taken);
    taken.add(id);
    return id === step.id ? [] : [[step.address, id]];
  });
}

/** Puts copied steps, whose names are free, into a scope. */
export function paste(design: Design, clip: string, scope: string): Edited {
  const source = new Design(new YamlText(clip));
  const home = design.scopes.get(scope) ?? design.root;
  const editing = new Editing(design.file);
  for (const step of source.root.steps) {
    const node = at(source.file.root, step.path);
    const body =
      node === null
        ? ""
        : node.kind === "map" && !node.flow
          ? `\n${indent(excerpt(clip, node), 2)}`
          : ` ${clip.slice(node.from, node.to)}`;
    editing.do((f) => insertLines(f, [...home.path, "steps"], step.id, body));
  }
  for (const gate of source.root.gates) {
    const node = at(source.file.root, gate.path);
    const count = listLength(editing.design, editing.design.scopes.get(home.address) ?? home);
    if (node) editing.do((f) => setAt(f, [...home.path, "gates", count], plainGate(source, gate.path)));
  }
  return {
    text: editing.file.text,
    select: { steps: source.root.steps.map((s) => inScope(home.address, s.id)), gate: null },
  };
}

function plainGate(source: Design, path: Path): unknown {
  const node = at(source.file.root, path);
  return node?.kind === "map"
    ? Object.fromEntries(
        node.entries.map((e) => [
          e.key,
          e.value?.kind === "scalar"
            ? e.value.value
            : e.value && e.value.kind === "list"
              ? e.value.items.map((i) => (i.value?.kind === "scalar" ? i.value.value : null))
              : null,
        ]),
      )
    : {};
}

/** The gates that steps lose when they are moved to another container, those to and from steps that stay; in words. */
export function gatesLost(design: Design, addresses: readonly string[]): string[] {
  const moved = new Set(addresses);
  return [...design.scopes.values()].flatMap((scope) =>
    scope.gates
      .filter((g) => moved.has(inScope(scope.address, g.from)) !== moved.has(inScope(scope.address, g.to)))
      .map((g) => `${g.from} → ${g.to}${g.label === "" ? "" : `, ${g.label}`}`),
  );
}

/**
 * Puts steps of one scope into a new container there. Gates among them go with them; those that lead in or out lead to
 * the container, or leave it.
 */
export function wrap(design: Design, addresses: readonly string[], kind: "group" | "each" | "repeat"): Edited {
  const outer = outermost(addresses);
  const home = design.scopes.get(scopeOf(outer[0] ?? ""));
  if (!home || outer.length === 0 || outer.some((a) => scopeOf(a) !== home.address)) return { text: design.file.text };
  const ids = new Set(outer.map(idOf));
  const made = addStep(design, home.address, kind, null, null);
  const id = idOf(made.id);
  const editing = new Editing(new YamlText(made.text, design.file));
  // What crosses the border leads to the container or leaves it; two gates that come to say the same become one.
  const said = new Set<string>();
  const crossing = (editing.design.scopes.get(home.address)?.gates ?? []).filter(
    (g) => ids.has(g.from) !== ids.has(g.to),
  );
  for (const gate of [...crossing].reverse()) {
    const [from, to] = [ids.has(gate.from) ? id : gate.from, ids.has(gate.to) ? id : gate.to];
    const name = `${from} ${to} ${gate.label}`;
    if (said.has(name)) editing.do((f) => removeAt(f, gate.path));
    else editing.do((f) => setAt(f, [...gate.path, ids.has(gate.from) ? "from" : "to"], id));
    said.add(name);
  }
  const moved = moveInto(editing.design, outer, made.id);
  return { text: moved.text, select: { steps: [made.id], gate: null } };
}

/** Moves steps into another scope; gates to steps that stay behind go. */
export function moveInto(design: Design, addresses: readonly string[], scope: string): Edited {
  const outer = outermost(addresses).filter((a) => scopeOf(a) !== scope && !`${scope}/`.startsWith(`${a}/`));
  if (outer.length === 0) return { text: design.file.text };
  const clip = copy(design, outer);
  const without = new Design(new YamlText(remove(design, { steps: outer, gate: null }).text, design.file));
  return paste(without, clip, scope);
}
