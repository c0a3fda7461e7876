import { expect, test } from "vitest";
import { Design } from "../document/design";
import { YamlText } from "../document/tree";
import { quickLayout } from "./quick";
import { countSteps } from "./scopes";

test("the quick layout puts every step behind its sources, apart from the others, and inside its container", () => {
  const steps = Array.from({ length: 60 }, (_, i) => `  s${String(i)}: { kind: wait }`).join("\n");
  const gates = Array.from(
    { length: 59 },
    (_, i) => `  - { from: s${String(Math.max(0, i - (i % 4)))}, to: s${String(i + 1)} }`,
  ).join("\n");
  const design = new Design(
    new YamlText(
      `chain: t\nsteps:\n${steps}\n  box:\n    kind: group\n    steps:\n      a: { kind: wait }\n      b: { kind: wait }\n    gates: [ { from: a, to: b } ]\ngates:\n${gates}\n  - { from: s5, to: box }\n  - { from: box, to: nowhere }\n`,
    ),
  );
  const places = quickLayout(design.root, 48, null).places;
  expect(places.size).toBe(countSteps(design.root));
  for (const gate of design.root.gates) {
    const [from, to] = [places.get(gate.from), places.get(gate.to)];
    if (from && to) expect(to.x).toBeGreaterThan(from.x + from.width);
  }
  const own = design.root.steps.map((s) => places.get(s.address)).flatMap((p) => p ?? []);
  for (const a of own)
    for (const b of own)
      if (a !== b)
        expect(a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y).toBe(
          true,
        );
  const [box, b] = [places.get("box"), places.get("box/b")];
  expect(b && box && b.x + b.width <= box.width && b.y + b.height <= box.height && b.y >= 48).toBe(true);
});
