import type { Schema } from "./schema";
import { child, type YamlNode } from "../document/tree";

/** JSON Schema of the whole file. */
export interface FileSchema extends Schema {
  $defs?: Record<string, Schema & { oneOf?: Schema[] }>;
  $ref?: string;
  oneOf?: Schema[];
}

/** The schema of what stands at a path; where it depends on a kind, that of the kind that is written there. */
export function schemaAt(
  schema: FileSchema,
  root: YamlNode | null,
  path: readonly (string | number)[],
): FileSchema | null {
  let at: FileSchema | null = resolve(schema, schema, root);
  let node = root;
  for (const part of path) {
    if (at === null) return null;
    const next: Schema | undefined =
      typeof part === "number"
        ? at.items
        : (at.properties?.[part] ??
          (typeof at.additionalProperties === "object" ? at.additionalProperties : undefined));
    node =
      typeof part === "number" ? (node?.kind === "list" ? (node.items[part]?.value ?? null) : null) : child(node, part);
    at = next === undefined ? null : resolve(schema, next, node);
  }
  return at;
}

function resolve(file: FileSchema, schema: FileSchema, node: YamlNode | null): FileSchema {
  const ref = schema.$ref?.replace("#/$defs/", "");
  const found: FileSchema =
    ref === undefined
      ? schema
      : {
          ...(file.$defs?.[ref] ?? {}),
          ...(schema.description === undefined ? {} : { description: schema.description }),
        };
  if (!found.oneOf) return found;
  const kind = child(node, "kind");
  const named = kind?.kind === "scalar" ? found.oneOf.find((s) => s.properties?.kind?.const === kind.value) : undefined;
  return named
    ? {
        ...named,
        properties: {
          ...named.properties,
          kind: {
            enum: found.oneOf.map((s) => s.properties?.kind?.const),
            description: named.description,
          },
        },
      }
    : found;
}

/**
 * The mapping or list that a line of a block belongs to, by its indent: its path, and whether a value is being written
 * and for which key.
 */
export function placeOf(text: string, offset: number): { path: (string | number)[]; key: string | null } {
  const before = text.slice(0, offset);
  const lineStart = before.lastIndexOf("\n") + 1;
  const line = before.slice(lineStart);
  const written = /^(\s*(?:- +)*)([\w./@-]+):\s+(.*)$/.exec(line);
  const indent = written ? (written[1]?.length ?? 0) : (/^\s*(?:- *)*/.exec(line)?.[0].length ?? 0);
  const path: (string | number)[] = [];
  let limit = indent;
  const lines = before.slice(0, lineStart).split("\n").slice(0, -1);
  const dashes = /^(\s*)((?:- +)*)/.exec(line);
  if (dashes?.[2]) limit = pushDash(lines, dashes[1]?.length ?? 0, path) ?? limit;
  for (let i = lines.length - 1; i >= 0 && limit > 0; i--) {
    const match = /^(\s*)((?:- +)?)([\w./@-]+):(.*)$/.exec(lines[i] ?? "");
    if (!match) continue;
    const dash = (match[2] ?? "").length;
    const column = (match[1] ?? "").length + dash;
    if (column < limit) {
      path.unshift(match[3] ?? "");
      limit = column;
    }
    if (dash > 0 && column <= limit) {
      path.unshift(countItems(lines.slice(0, i), (match[1] ?? "").length));
      limit = (match[1] ?? "").length;
      // A list may stand at the indent of its key.
      limit += 1;
    }
  }
  return { path, key: written ? (written[2] ?? null) : null };
}

function pushDash(lines: string[], column: number, path: (string | number)[]): number {
  path.unshift(countItems(lines, column));
  return column + 1;
}

function countItems(lines: string[], column: number): number {
  let count = 0;
  for (let i = lines.length - 1; i >= 0; i--) {
    const text = lines[i] ?? "";
    if (text.trim() === "" || text.trimStart().startsWith("#")) continue;
    const indent = text.length - text.trimStart().length;
    if (indent < column || (indent === column && !text.trimStart().startsWith("-"))) break;
    if (indent === column) count++;
  }
  return count;
}
