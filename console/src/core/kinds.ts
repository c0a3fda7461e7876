/** What a kind is for, as its icon tells it. */
export type Family = "data" | "work" | "ways" | "people" | "other";

/** The families of the kinds that come with Gate Chain; of plug-ins nobody knows. */
const families: Readonly<Record<string, Family>> = {
  load: "data",
  check: "data",
  sql: "data",
  file: "data",
  transfer: "data",
  command: "work",
  http: "work",
  remote: "work",
  call: "work",
  notify: "people",
  decide: "ways",
  each: "ways",
  repeat: "ways",
  group: "ways",
  wait: "ways",
  assign: "ways",
  stop: "ways",
};

export const familyOf = (kind: string): Family => families[kind] ?? "other";
