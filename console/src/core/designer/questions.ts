/** One answer to a question of a form: the fields that it needs. */
export interface Choice {
  name: string;
  /** What people choose. */
  label: string;
  /** The fields that are shown with it, in this order. */
  fields: readonly string[];
  /** The fields that tell that it was chosen; those of `fields` that no other choice has when absent. */
  marks?: readonly string[];
}

/** What a form asks instead of showing fields that exclude each other side by side. */
export interface Question {
  ask: string;
  /** The setting that holds the answer by name; without it the fields that are set tell. */
  by?: string;
  /** The type of the connection tells, where one is chosen. */
  byConnection?: boolean;
  choices: readonly Choice[];
  /** Fields above the question. */
  before?: readonly string[];
  /** Fields below the chosen ones that everybody needs. */
  after?: readonly string[];
  /** Whether what it names can be looked into. */
  looks?: boolean;
  /** What fields are called where the question says more than their name. */
  labels?: Readonly<Record<string, string>>;
}

const files = Object.fromEntries(
  ["csv", "fixed", "jsonl", "json", "xml", "parquet"].map((form) => [form, "Path of the file"]),
);

const choice = (name: string, label: string, ...fields: string[]): Choice => ({ name, label, fields });

/** Where rows come from. */
const source: Question = {
  ask: "From",
  choices: [
    choice("csv", "a text file with columns (CSV)", "csv", "delimiter"),
    { ...choice("table", "a table or view", "connection", "table"), marks: ["table"] },
    { ...choice("query", "a query", "connection", "query", "bind"), marks: ["query"] },
    choice("jsonl", "a file of JSON lines", "jsonl"),
    choice("json", "a JSON document", "json", "at"),
    choice("xml", "an XML file", "xml", "row"),
    choice("fixed", "a text file with fields at fixed places", "fixed", "widths"),
    choice("parquet", "a Parquet file", "parquet"),
    choice("xlsx", "an Excel sheet", "xlsx", "sheet"),
  ],
  labels: {
    ...files,
    xlsx: "Path of the workbook",
    at: "Where the rows are",
    row: "Name of the elements that are rows",
  },
  looks: true,
};

/** The questions of the kinds that come with Gate Chain, by kind and by the record within its settings. */
const questions: Readonly<Record<string, Question>> = {
  wait: {
    ask: "What does it wait for?",
    choices: [
      choice("for", "a length of time", "for"),
      choice("until", "a moment", "until"),
      choice("runs", "other runs to end", "runs", "need"),
    ],
  },
  stop: {
    ask: "How does the run end?",
    by: "outcome",
    choices: [
      choice("stopped", "stopped", "message"),
      choice("succeeded", "green and quietly: what has not begun is skipped", "message"),
      choice("failed", "as a failure, with its handlers", "message"),
    ],
  },
  command: {
    ask: "What does it run?",
    choices: [
      choice("shell", "a line for the shell", "shell"),
      choice("run", "a program with arguments", "run"),
      choice("script", "an attached script", "script", "args", "interpreter"),
    ],
    after: ["output"],
  },
  file: {
    ask: "What does it do?",
    by: "action",
    choices: [
      choice("look", "looks which files are there", "path", "lines"),
      choice("copy", "copies files", "path", "to", "overwrite"),
      choice("move", "moves files", "path", "to", "overwrite"),
      choice("rename", "renames a file", "path", "to", "overwrite"),
      choice("delete", "deletes files", "path"),
      choice("makeFolder", "makes a folder", "path"),
      choice("write", "writes a text file", "path", "text", "append", "overwrite"),
      choice("pack", "packs files into an archive", "path", "to", "format", "overwrite"),
      choice("unpack", "unpacks an archive", "path", "to", "format", "overwrite", "maxBytes"),
      choice("hash", "computes a checksum", "path", "algorithm"),
    ],
  },
  transfer: {
    ask: "What does it do?",
    by: "action",
    before: ["connection"],
    choices: [
      choice("get", "gets files from there", "path", "to", "overwrite"),
      choice("put", "puts files there", "path", "to", "overwrite"),
      choice("list", "looks which files are there", "path"),
      choice("move", "moves files there", "path", "to", "overwrite"),
      choice("delete", "deletes files there", "path"),
    ],
  },
  http: {
    ask: "What is sent along?",
    before: ["connection", "method", "path"],
    choices: [
      choice("nothing", "nothing"),
      choice("json", "JSON from an expression", "json"),
      choice("form", "fields of a form", "form"),
      choice("text", "a text", "text", "contentType"),
      choice("file", "a file", "file", "contentType"),
    ],
    after: ["give"],
  },
  "load.from": source,
  "check.of": source,
  "load.into": {
    ask: "Into",
    choices: [
      {
        ...choice("table", "a table", "connection", "table", "mode", "key", "create"),
        marks: ["connection", "table"],
      },
      choice("csv", "a text file with columns (CSV)", "csv"),
      choice("jsonl", "a file of JSON lines", "jsonl"),
      choice("parquet", "a Parquet file", "parquet"),
    ],
    labels: files,
  },
  notify: {
    ask: "What is sent?",
    byConnection: true,
    before: ["connection"],
    choices: [
      choice("smtp", "a mail", "to", "subject", "text", "html", "attach"),
      choice("http", "a message, as JSON", "path", "json"),
      { ...choice("event", "an event (CloudEvents)", "event", "path"), marks: ["event"] },
    ],
  },
  sql: {
    ask: "What comes back?",
    by: "give",
    before: ["connection", "query", "bind"],
    choices: [
      choice("none", "nothing"),
      choice("scalar", "one value", "numbers"),
      choice("row", "one row", "numbers"),
      choice("rows", "all rows", "maxRows", "numbers"),
    ],
  },
  remote: {
    ask: "",
    before: ["connection", "path", "json", "state", "succeeded", "failed"],
    choices: [],
  },
};

/** The question of a kind's settings, or of a record in them; undefined where the fields stand as they are. */
export const questionOf = (kind: string | undefined, record: string): Question | undefined =>
  kind === undefined ? undefined : questions[record === "" ? kind : `${kind}.${record}`];

/** Fields that tell that a choice was taken. */
const marksOf = (question: Question, { fields, marks }: Choice): readonly string[] =>
  marks ?? fields.filter((f) => question.choices.filter((c) => c.fields.includes(f)).length === 1);

/** The choice that the settings tell; null when they tell none. */
export function chosenOf(
  question: Question,
  set: Readonly<Record<string, unknown>>,
  fallback: unknown,
  connectionType: string | undefined,
): string | null {
  const names = question.choices.map((c) => c.name);
  if (question.by !== undefined) {
    const value = set[question.by] ?? fallback;
    return typeof value === "string" && names.includes(value) ? value : null;
  }
  const marked = question.choices.find((c) => marksOf(question, c).some((f) => f in set));
  if (question.byConnection === true)
    return marked?.name === "event" ? "event" : names.includes(connectionType ?? "") ? (connectionType ?? null) : null;
  return marked?.name ?? (names.includes("nothing") ? "nothing" : null);
}

/** What another choice takes out of the settings: the fields that only the others need. */
export function leftOut(question: Question, choice: string): string[] {
  const kept = new Set([...(question.choices.find((c) => c.name === choice)?.fields ?? []), ...(question.after ?? [])]);
  return [...new Set(question.choices.flatMap((c) => c.fields))].filter((f) => !kept.has(f));
}
