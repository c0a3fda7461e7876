import { describe, expect, it } from "vitest";
import { entriesOf, mergeEntries, putEntry } from "./entries";

const base = "# where we go\nlab: { type: http, url: a }\nwarehouse:\n  type: sqlite # old\n  path: w.db\n";

describe("two people on one file", () => {
  const of = (name: string, change: object) => putEntry(base, name, name, { ...entriesOf(base)?.[name], ...change });

  it("lose nothing when they change different entries", () => {
    const merged = mergeEntries(base, of("lab", { url: "b" }), of("warehouse", { path: "v.db" }));
    expect(merged).toEqual({ text: base.replace("url: a", "url: b").replace("w.db", "v.db") });
  });

  it("clash on the same entry, unless they say the same", () => {
    expect(mergeEntries(base, of("lab", { url: "b" }), of("lab", { url: "c" }))).toEqual({ clash: ["lab"] });
    const same = of("lab", { url: "b" });
    expect(mergeEntries(base, same, same)).toEqual({ text: same });
  });

  it("keep an entry that is new, and one that is gone", () => {
    const more = putEntry(base, null, "mail", { type: "smtp" });
    const merged = mergeEntries(base, more, putEntry(base, "lab", "lab", null));
    expect(entriesOf("text" in merged ? merged.text : "")).toEqual({
      warehouse: { type: "sqlite", path: "w.db" },
      mail: { type: "smtp" },
    });
    expect(mergeEntries(base, putEntry(base, "lab", "lab", null), of("lab", { url: "z" }))).toEqual({ clash: ["lab"] });
  });

  it("clash where only a comment is another, or a text can't be read", () => {
    expect(mergeEntries(base, base.replace("old", "new"), of("lab", { url: "b" }))).toEqual({ clash: ["the text"] });
    expect(mergeEntries(base, "- a", base)).toEqual({ clash: ["the text"] });
  });
});

describe("a file without entries", () => {
  it("gets its first one, and keeps its comment", () => {
    expect(putEntry("", null, "a", { width: 1 })).toBe("a: { width: 1 }\n");
    expect(putEntry("# lanes", null, "a", { width: 1 })).toBe("# lanes\na: { width: 1 }\n");
    expect(entriesOf("# nothing\n")).toEqual({});
  });
});
