import type { ChainSummary } from "../api/types";

/** Somewhere to go. */
export interface Destination {
  /** Its address in the console. */
  key: string;
  name: string;
  about: string;
}

const pages: Destination[] = [
  { key: "/", name: "Home", about: "what needs you, what runs, what comes next" },
  { key: "/chains", name: "Chains", about: "all chains" },
  { key: "/runs", name: "Runs", about: "all runs" },
  { key: "/runs?state=failed", name: "Failed runs", about: "runs that failed" },
  { key: "/runs?state=running", name: "Running runs", about: "runs that are at work" },
  { key: "/runs?state=paused", name: "Paused runs", about: "runs that wait for a decision" },
  { key: "/triggers", name: "Triggers", about: "what starts chains by itself" },
  { key: "/triggers?view=week", name: "Week of triggers", about: "what started and what comes, day by day" },
  { key: "/lanes", name: "Lanes", about: "which steps are in which lane, and which wait" },
  { key: "/connections", name: "Connections", about: "where chains go, secrets, profiles" },
  { key: "/files", name: "Files", about: "settings and attachments beside the chains" },
  { key: "/data", name: "Data", about: "what chains read and write, where it comes from and goes" },
  { key: "/keeping", name: "Keeping", about: "how long runs are kept, pinned runs, what takes room" },
  { key: "/help", name: "Help", about: "words, kinds, functions, problems, keys" },
  { key: "/help?about=kinds", name: "Kinds of steps", about: "help" },
  { key: "/help?about=functions", name: "Functions of expressions", about: "help" },
  { key: "/help?about=problems", name: "Problems and what to do", about: "help" },
  { key: "/help?about=keys", name: "Keys", about: "help" },
];

/** The pages, and of each chain what one goes to; the chains' own pages first. */
export function destinations(chains: readonly Pick<ChainSummary, "name" | "title">[]): Destination[] {
  const of = (word: string, path: (name: string) => string) =>
    chains.map(({ name, title }) => ({
      key: path(encodeURIComponent(name)),
      name: word === "" ? (title ?? name) : `${word} ${title ?? name}${word === "Start" ? "…" : ""}`,
      about: name,
    }));
  return [
    ...pages,
    ...of("", (name) => `/chains/${name}`),
    ...of("Start", (name) => `/chains/${name}?do=start`),
    ...of("Design", (name) => `/chains/${name}/design`),
    ...of("History of", (name) => `/chains/${name}/history`),
    ...of("Runs of", (name) => `/runs?chain=${name}`),
  ];
}

/** The run that is meant by a number. */
export function runMeant(search: string): Destination[] {
  const number = /^(?:run\s+)?(\d{1,15})$/i.exec(search)?.[1];
  return number === undefined
    ? []
    : [
        { key: `/runs/${number}`, name: `Run ${number}`, about: "as it stands" },
        {
          key: `/runs/${number}/difference`,
          name: `What was different in run ${number}`,
          about: "beside the last good one",
        },
        { key: `/runs/${number}?do=resume`, name: `Resume run ${number}…`, about: "asks first" },
      ];
}
