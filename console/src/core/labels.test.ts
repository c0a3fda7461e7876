import { expect, test } from "vitest";
import cases from "../../../tests/cases/labels.json";
import type { FireInfo } from "./api/types";
import { parse } from "yaml";
import { tell } from "./designer/tells";
import { Design } from "./document/design";
import { YamlText } from "./document/tree";
import { took } from "./format";
import { marks } from "./states";
import { fateOf, happened, inZone, placeOf } from "./triggers/words";

// What the service and the command line say of the same things is held to the same cases in LabelTests.

const designed = (text: string) => new Design(new YamlText(text)).root;

test.each(cases.gates)("the gate $gate is labelled “$label”", ({ gate, on, label }) => {
  const [read] = designed(`chain: labels\ngates:\n  - ${gate}\n`).gates;
  expect({ on: read?.on, label: read?.label }).toEqual({ on, label });
});

test.each(cases.steps)("below $step stands $note", ({ step, note }) => {
  expect(designed(`chain: labels\nsteps:\n  a: ${step}\n`).steps[0]?.note).toBe(note);
});

test.each(cases.facts)("of $set is told $fact", ({ tells, set, fact }) => {
  expect(tell(tells, parse(set))).toBe(fact);
});

test("states have the marks of the terminal", () => expect(marks).toEqual(cases.states));

test.each(cases.durations)("$ms milliseconds are “$text”", ({ ms, text }) => expect(took(ms)).toBe(text));

test.each(cases.fires)("an event is told as “$happened”", ({ event, happened: text }) =>
  expect(happened({ event } as unknown as FireInfo)).toBe(text),
);

test.each(cases.fates)("a fire that is $fate is told as “$text”", ({ fate, run, text }) =>
  expect(fateOf({ fate, run } as FireInfo)).toBe(text),
);

test.each(cases.moments)("$at in $zone is “$text”", ({ at, zone, text }) =>
  expect(`${inZone(at, zone)} ${placeOf(zone)}`).toBe(text),
);
