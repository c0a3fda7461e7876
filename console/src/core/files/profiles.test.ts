import { describe, expect, it } from "vitest";
import { addProfile, readProfiles, readTyped, removeProfile, setNote, setValue } from "./profiles";

const file = "# environments\ndefault:\n  inbox: inbox # where files come\n  most: 3\ndev:\n  inbox: in-dev\n";

describe("profiles side by side", () => {
  it("tell values and notes", () => {
    expect(readProfiles(file)).toEqual({
      profiles: ["default", "dev"],
      rows: [
        { name: "inbox", values: { default: "inbox", dev: "in-dev" }, note: "where files come" },
        { name: "most", values: { default: 3 }, note: "" },
      ],
    });
    expect(readProfiles("a: 1\n")).toBeNull();
  });

  it("are changed one value at a time", () => {
    expect(setValue(file, "dev", "most", 1)).toBe(`${file}  most: 1\n`);
    expect(setValue(file, "default", "inbox", "x")).toBe(file.replace("inbox: inbox #", "inbox: x #"));
    expect(setNote(file, "most", "at  once\n")).toBe(file.replace("most: 3", "most: 3 # at once"));
    expect(setNote(file, "inbox", "")).toBe(file.replace(" # where files come", ""));
    expect(readProfiles(addProfile(file, "test", "dev"))?.rows[0]?.values).toEqual({
      default: "inbox",
      dev: "in-dev",
      test: "in-dev",
    });
    expect(readProfiles(removeProfile(file, "dev"))?.profiles).toEqual(["default"]);
  });

  it("keep the type of what stands beside", () => {
    expect(readTyped("12", [undefined, 3])).toBe(12);
    expect(readTyped("12", ["3"])).toBe("12");
    expect(readTyped("true", [])).toBe(true);
    expect(readTyped("a b", [])).toBe("a b");
    expect(readTyped(" ", [3])).toBeUndefined();
  });
});
