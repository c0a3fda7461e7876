import type { KindInfo } from "../api/types";
import type { Word } from "./glossary";

/** The parts of the help, in their order. */
export const parts = [
  { about: "words", title: "Words" },
  { about: "kinds", title: "Kinds of steps" },
  { about: "functions", title: "Functions" },
  { about: "problems", title: "Problems" },
  { about: "keys", title: "Keys" },
] as const;

export type About = (typeof parts)[number]["about"];

/** Something that is explained. */
export interface Topic {
  name: string;
  /** What it belongs to: stands above the first of its group. */
  group: string;
  /** With code in backticks. */
  text: string;
  /** More of it, line by line, with code in backticks. */
  lines: string[];
  /** An example, as a file or the command line has it. */
  example: string | null;
}

const cells = (row: string) =>
  row
    .replace(/^\| | \|$/g, "")
    .split(/(?<!\\) \| /)
    .map((cell) => cell.replaceAll("\\|", "|").trim());

const bare = (text: string) => text.replaceAll("`", "");

const topic = (name: string, group: string, text: string, more: Partial<Topic> = {}): Topic => ({
  name,
  group,
  text,
  lines: [],
  example: null,
  ...more,
});

export const wordTopics = (words: readonly Word[]): Topic[] => words.map((w) => topic(w.word, "", w.text));

/** The rows of the tables behind “Functions, operators and macros” of docs/expressions.md. */
export function functionTopics(markdown: string): Topic[] {
  const found: Topic[] = [];
  let group = "";
  for (const line of markdown.slice(markdown.indexOf("## Functions")).split("\n")) {
    if (line.startsWith("### ")) group = line.slice(4);
    if (!line.startsWith("| `")) continue;
    const [name = "", does = "", example = "", gives = ""] = cells(line);
    found.push(topic(bare(name), group, does, { lines: example === "" ? [] : [`${example} gives ${gives}`] }));
  }
  return found;
}

/** The catalogue of docs/problems.md, each with the example of its section. */
export function problemTopics(markdown: string): Topic[] {
  return [...markdown.matchAll(/^\| (GC\d+) \| (\w+) \| (.+) \|$/gm)].map(([, code = "", severity = "", rest = ""]) => {
    const [what = "", fix = ""] = cells(`| ${rest} |`);
    const from = markdown.indexOf(`### ${code}\n`);
    const section = from < 0 ? "" : markdown.slice(from, markdown.indexOf("\n### ", from + 1) >>> 0);
    return topic(code, severity, `${what}. ${fix}`, { example: /```\w*\n([\s\S]*?)\n```/.exec(section)?.[1] ?? null });
  });
}

/** The table of docs/keys.md. */
export const keyTopics = (markdown: string): Topic[] =>
  [...markdown.matchAll(/^\| (?!where|---)(.+) \|$/gm)].map(([, row = ""]) => {
    const [where = "", keys = "", what = ""] = cells(`| ${row} |`);
    return topic(bare(keys), where, what);
  });

interface Shape {
  properties?: Record<string, Shape & { description?: string }>;
  required?: string[];
}

const settingsOf = ({ properties = {}, required = [] }: Shape, but: readonly string[] = []): string[] =>
  Object.entries(properties)
    .filter(([name]) => !but.includes(name))
    .map(
      ([name, { description }]) => `\`${name}\`${required.includes(name) ? " (required)" : ""}: ${description ?? ""}`,
    );

/** The kinds of steps and probes that the service has, with their settings and what they give. */
export function kindTopics(
  kinds: readonly KindInfo[],
  probes: readonly KindInfo[],
  examples: ReadonlyMap<string, string>,
): Topic[] {
  const of = (kind: KindInfo, group: string, example: string | null) => {
    // What stands under “set” is the kind's own; the rest is every step's.
    const shape = kind.schema as Shape;
    const settings = settingsOf(shape.properties?.set ?? shape);
    const outputs = kind.outputs.filter((o) => o.name !== "*").map((o) => `\`${o.name}\` (${o.type})`);
    return topic(kind.name, group, kind.doc, {
      lines: [...settings, ...(outputs.length > 0 ? [`It gives ${outputs.join(", ")}.`] : [])],
      example,
    });
  };
  const every = kinds.find((k) => (k.schema as Shape).properties?.set !== undefined);
  return [
    ...(every
      ? [
          topic("every step", "beside what its kind needs", "What any step may say, whatever it does.", {
            lines: settingsOf(every.schema as Shape, ["kind", "set"]),
          }),
        ]
      : []),
    ...kinds.map((k) => of(k, k.purpose, examples.get(k.name) ?? null)),
    ...probes.map((k) => of(k, "probes of guards and watches", null)),
  ];
}

/** Those that a text is in: called just so first, then called like it, then those that speak of it. */
export function findTopics(topics: readonly Topic[], wanted: string): Topic[] {
  const text = wanted.trim().toLowerCase();
  if (text === "") return [...topics];
  const rank = (t: Topic) => {
    const name = t.name.toLowerCase();
    return name === text
      ? 0
      : name.includes(text)
        ? 1
        : `${t.group} ${t.text} ${t.lines.join(" ")}`.toLowerCase().includes(text)
          ? 2
          : 3;
  };
  return topics
    .map((t) => [rank(t), t] as const)
    .filter(([r]) => r < 3)
    .sort(([a], [b]) => a - b)
    .map(([, t]) => t);
}
