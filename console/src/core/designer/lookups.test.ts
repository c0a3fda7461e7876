import { expect, test } from "vitest";
import { above, lookFrom, placesOf } from "./lookups";

test("a path is looked up where it leads: with a server there, but for the end that is here", () => {
  const office = { name: "office", type: "sftp" };
  const first = (name: string, action?: string) => placesOf(name, office, action)[0]?.connection;
  expect([first("path", "get"), first("to", "get")]).toEqual(["office", null]);
  expect([first("path", "put"), first("to", "put")]).toEqual([null, "office"]);
  expect([first("path", "list"), first("to", "move")]).toEqual(["office", "office"]);
  expect(placesOf("path", null, "copy").map((p) => p.connection)).toEqual([null]);
  expect(placesOf("path", { name: "inbox", type: "folder" }, "copy").map((p) => p.connection)).toEqual(["inbox"]);
});

test("what has to be computed is left out of what is looked up", () => {
  expect(lookFrom("inbox/we")).toBe("inbox/we");
  expect(lookFrom("inbox/${item}/x.csv")).toBe("inbox/");
  expect(lookFrom("inbox/north/pickups-*.csv")).toBe("inbox/north/");
  expect(lookFrom("${profile.inbox}/x.csv")).toBe("");
  expect([above("inbox/west/"), above("inbox/"), above("")]).toEqual(["inbox/", "", ""]);
});
