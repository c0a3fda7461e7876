import { expect, test } from "vitest";
import { checksOf } from "./checks";

test("the checks of a step stand with what is wrong first", () => {
  const outputs = {
    rows: 4,
    checks: {
      "told apart": { outcome: "passed", failing: 0, says: "" },
      weighed: { outcome: "warned", failing: 1, says: "1 row does not pass; line 4: litres is empty" },
      "farms known": { outcome: "failed", failing: 2, says: "2 rows do not pass" },
    },
  };
  expect(checksOf(outputs).map((c) => `${c.state} ${c.name} ${String(c.failing)}`)).toEqual([
    "failed farms known 2",
    "warned weighed 1",
    "succeeded told apart 0",
  ]);
});

test.each([null, undefined, 3, [], {}, { checks: 3 }, { checks: { a: 1, b: { outcome: "odd" } } }])(
  "other outputs have none: %j",
  (outputs) => {
    expect(checksOf(outputs)).toEqual([]);
  },
);
