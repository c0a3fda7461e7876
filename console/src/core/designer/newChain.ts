import { writeFlow } from "../document/write";

/** A title out of a name: `milk-intake` is “Milk intake”. */
export const titleOf = (name: string) => {
  const words = name.replace(/[-_]+/g, " ").replace(/([a-z0-9])([A-Z])/g, "$1 $2");
  return words.charAt(0).toUpperCase() + words.slice(1);
};

/** The file of a chain that a call is to run: what the call gives are its parameters. */
export function childSource(
  name: string,
  inputs: Readonly<Record<string, unknown>>,
  known: readonly { name: string; type: string }[],
): string {
  const typeOf = (input: unknown) =>
    known.find((p) => `params.${p.name}` === input)?.type ?? (typeof input === "boolean" ? "bool" : "any");
  const params = Object.entries(inputs).map(([key, input]) => `  ${key}: ${writeFlow({ type: typeOf(input) })}\n`);
  return `chain: ${name}\ntitle: ${titleOf(name)}\n${params.length > 0 ? `params:\n${params.join("")}` : ""}steps: {}\n`;
}

/** A chain's file under another name, with a title that fits it; a call of the chain itself keeps meaning itself. */
export function renamedSource(source: string, name: string): string {
  const own = /^chain: *([\w-]+)/m.exec(source)?.[1] ?? "";
  return source
    .replace(/^chain: *[\w-]+/m, `chain: ${name}`)
    .replace(new RegExp(`^(\\s+)chain: *${own}(?![\\w-])`, "gm"), `$1chain: ${name}`)
    .replace(/^title: .*$/m, `title: ${titleOf(name)}`);
}
