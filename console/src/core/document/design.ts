import type { GateEdge, ScopeGraph, StepNode } from "../api/types";
import { shortest } from "../designer/sentences";
import { child, plain, YamlText, type Path, type YamlMap, type YamlNode } from "./tree";

/** A step as the file has it. */
export interface DesignStep extends StepNode {
  /** Where it stands in the file. */
  path: Path;
  from: number;
  to: number;
  scope: string;
  inner: DesignScope | null;
}

/** A gate as the file has it. */
export interface DesignGate extends GateEdge {
  path: Path;
  start: number;
  end: number;
  scope: string;
  /** Whether it opens when no condition of the gates beside it has. */
  isElse: boolean;
}

/** The steps and gates of one scope. */
export interface DesignScope extends ScopeGraph {
  /** Empty for the chain's own; a container's address; <c>@failure</c> for a handler. */
  address: string;
  path: Path;
  steps: DesignStep[];
  gates: DesignGate[];
}

/**
 * A chain file as far as it can be read: what the canvas draws. It is read leniently; what is wrong is the service's to
 * say.
 */
export class Design {
  readonly name: string;
  readonly title: string;
  readonly root: DesignScope;
  readonly handlers: DesignScope[];
  readonly steps = new Map<string, DesignStep>();
  readonly scopes = new Map<string, DesignScope>();
  readonly params: { name: string; type: string }[];
  readonly vars: { name: string; type: string }[];
  /** Addresses that have a place of their own on the canvas. */
  readonly placed: ReadonlyMap<string, [number, number]>;

  constructor(readonly file: YamlText) {
    const root = file.root;
    this.name = word(child(root, "chain")) ?? "";
    this.title = word(child(root, "title")) ?? this.name;
    this.params = declared(child(root, "params"));
    this.vars = declared(child(root, "vars"));
    this.placed = places(child(root, "layout"));
    this.root = this.#scope(root, "", []);
    const handlers = child(root, "handlers");
    this.handlers =
      handlers?.kind === "map"
        ? handlers.entries.map((e) => this.#scope(e.value, `@${e.key}`, ["handlers", e.key]))
        : [];
  }

  #scope(node: YamlNode | null, address: string, path: Path): DesignScope {
    const scope: DesignScope = { address, path, steps: [], gates: [] };
    this.scopes.set(address, scope);
    const steps = child(node, "steps");
    if (steps?.kind === "map") {
      for (const entry of steps.entries) {
        const step = this.#step(entry.key, entry.value, scope, [...path, "steps", entry.key]);
        Object.assign(step, { from: entry.from, to: entry.to });
        scope.steps.push(step);
      }
    }
    const gates = child(node, "gates");
    if (gates?.kind === "list") {
      gates.items.forEach((item, index) => {
        const gate = readGate(item.value, index, address, [...path, "gates", index]);
        if (gate) scope.gates.push({ ...gate, start: item.from, end: item.to });
      });
    }
    return scope;
  }

  #step(id: string, node: YamlNode | null, scope: DesignScope, path: Path): DesignStep {
    const address = scope.address === "" ? id : `${scope.address}/${id}`;
    const map = (node?.kind === "map" ? node : null) as YamlMap | null;
    const kind = word(child(map, "kind")) ?? "";
    const container =
      child(map, "steps") !== null ||
      map?.entries.some((e) => e.key === "steps") === true ||
      kind === "group" ||
      kind === "each" ||
      kind === "repeat";
    const step: DesignStep = {
      id,
      address,
      kind,
      path,
      from: 0,
      to: 0,
      scope: scope.address,
      title: word(child(map, "title")) ?? id,
      notes: word(child(map, "notes")) ?? null,
      join: String(plain(child(map, "join")) ?? "all"),
      ifFails: word(child(map, "ifFails")) ?? "fail",
      disabled: plain(child(map, "disabled")) === true,
      guarded: child(map, "guard") !== null,
      lane: word(child(map, "lane")) ?? null,
      note: noteOf(kind, map),
      place: this.placed.get(address) ?? null,
      inner: null,
    };
    // Outer ones come before what is inside of them.
    this.steps.set(address, step);
    if (container) step.inner = this.#scope(map, address, path);
    return step;
  }

  /** The gate of a scope by its number. */
  gate(scope: string, index: number): DesignGate | undefined {
    return this.scopes.get(scope)?.gates.find((g) => g.index === index);
  }

  /** The step or gate that a place of the text belongs to: the innermost one. */
  partAt(offset: number): { step: string } | { gate: { scope: string; index: number } } | null {
    let found: DesignStep | null = null;
    for (const step of this.steps.values()) {
      if (step.from <= offset && offset <= step.to && (found === null || step.from >= found.from)) found = step;
    }
    for (const scope of this.scopes.values()) {
      const gate = scope.gates.find((g) => g.start <= offset && offset <= g.end);
      if (gate && (found === null || gate.start >= found.from))
        return { gate: { scope: scope.address, index: gate.index } };
    }
    return found ? { step: found.address } : null;
  }
}

const word = (node: YamlNode | null): string | undefined =>
  node?.kind === "scalar" && node.value !== null ? String(node.value as string | number | boolean) : undefined;

const declared = (node: YamlNode | null) =>
  node?.kind === "map" ? node.entries.map((e) => ({ name: e.key, type: word(child(e.value, "type")) ?? "any" })) : [];

function places(node: YamlNode | null): Map<string, [number, number]> {
  const found = new Map<string, [number, number]>();
  for (const entry of node?.kind === "map" ? node.entries : []) {
    const value = plain(entry.value);
    if (Array.isArray(value) && typeof value[0] === "number" && typeof value[1] === "number")
      found.set(entry.key, [value[0], value[1]]);
  }
  return found;
}

const onWords: Record<string, string> = {
  success: "",
  failure: "on failure",
  completion: "either way",
  skipped: "if skipped",
  always: "always",
  "failure, skipped": "failed or skipped",
  "success, skipped": "succeeded or skipped",
};

/** The outcomes of a gate in one word where there is one for them. */
export function onWord(on: unknown): string {
  const words = (Array.isArray(on) ? on : [on ?? "success"]).map(String);
  const has = (w: string) =>
    words.includes(w) || words.includes("always") || (w !== "skipped" && words.includes("completion"));
  const [s, f, k] = [has("success"), has("failure"), has("skipped")];
  return s && f && k
    ? "always"
    : s && f
      ? "completion"
      : f && k
        ? "failure, skipped"
        : s && k
          ? "success, skipped"
          : f
            ? "failure"
            : k
              ? "skipped"
              : "success";
}

function readGate(
  node: YamlNode | null,
  index: number,
  scope: string,
  path: Path,
): Omit<DesignGate, "start" | "end"> | null {
  const [from, to] = [word(child(node, "from")), word(child(node, "to"))];
  if (from === undefined || to === undefined) return null;
  const on = onWord(plain(child(node, "on")) ?? undefined);
  const when = word(child(node, "when")) ?? null;
  const branch = word(child(node, "branch"));
  const isElse = plain(child(node, "else")) === true;
  const condition = branch ?? when;
  const label = onWords[on] ?? on;
  const match = word(child(node, "match")) === "either" ? "or" : "and";
  return {
    index,
    from,
    to,
    on,
    when: branch === undefined ? when : null,
    label: isElse
      ? `${label}${label === "" ? "" : ", "}else`
      : condition === null
        ? label
        : label === ""
          ? condition
          : `${label} ${match} ${condition}`,
    isElse,
    path,
    scope,
  };
}

/** What the drawing says below the title. */
function noteOf(kind: string, map: YamlMap | null): string | null {
  const get = (key: string) => word(child(map, key));
  switch (kind) {
    case "repeat":
      return get("until") !== undefined
        ? `until ${get("until") ?? ""}`
        : get("while") !== undefined
          ? `while ${get("while") ?? ""}`
          : null;
    case "call":
      return get("chain") === undefined
        ? null
        : `runs ${get("chain") ?? ""}${get("wait") === "false" ? ", without waiting" : ""}`;
    case "each":
      return get("over") === undefined
        ? null
        : `over ${get("over") ?? ""}${Number(get("parallel") ?? 1) > 1 ? `, ${get("parallel") ?? ""} at a time` : ""}`;
    case "decide": {
      const branches = plain(child(map, "branches"));
      return Array.isArray(branches)
        ? branches.map((b) => String((b as { name?: unknown } | null)?.name ?? "?")).join(" / ")
        : null;
    }
    default: {
      const assign = child(map, "assign");
      if (assign?.kind === "map" && assign.entries.length > 0) return assign.entries.map((e) => e.key).join(", ");
      const length = kind === "wait" ? word(child(child(map, "set"), "for")) : undefined;
      return length === undefined ? null : shortest(length);
    }
  }
}
