import { expect, test } from "vitest";
import type { SessionInfo } from "../api/types";
import { holds, may, roleWords, whyNot, type Permission } from "./may";

const session = (state: string, given: Partial<Record<Permission, string[]>>): SessionInfo => ({
  state,
  name: "bea",
  fullName: null,
  roles: [],
  may: given as Record<string, string[]>,
  provider: null,
  through: "session",
  hasCodes: false,
});

test.each([
  ["", "sales", true],
  ["sales", "sales", true],
  ["sales", "sales/daily", true],
  ["sales", "sales-old", false],
  ["sales/daily", "sales", false],
  ["sales", "", false],
])("“%s” holds “%s”: %s", (outer, inner, expected) => {
  expect(holds(outer, inner)).toBe(expected);
});

test("where nobody signs in, and until it is known, nothing is held back", () => {
  expect(may(undefined, "administer", "")).toBe(true);
  expect(may(session("open", {}), "administer", "")).toBe(true);
});

test("a role holds in its folder and below", () => {
  const bea = session("signed-in", { see: ["sales"], operate: ["sales/daily"] });
  expect(may(bea, "operate")).toBe(true);
  expect(may(bea, "operate", "sales/daily/west")).toBe(true);
  expect(may(bea, "operate", "sales")).toBe(false);
  expect(may(bea, "design")).toBe(false);
  expect(whyNot(bea, "operate", "sales")).toBe("This takes the role operator in sales: an admin gives it.");
  expect(whyNot(bea, "operate", "sales/daily")).toBeNull();
  expect(whyNot(bea, "administer")).toBe("This takes the role admin: an admin gives it.");
});

test("roles are said in words", () => {
  expect(roleWords("admin")).toBe("admin everywhere");
  expect(roleWords("operator:sales/daily")).toBe("operator in sales/daily");
});
