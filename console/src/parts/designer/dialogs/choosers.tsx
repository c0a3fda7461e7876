import type { KindInfo } from "../../../core/api/types";
import { whyNoGate } from "../../../core/designer/operations";
import type { Design, DesignStep } from "../../../core/document/design";
import { Chooser, type Item } from "./Chooser";

export function AddDialog({
  kinds,
  after,
  add,
  close,
}: {
  kinds: KindInfo[];
  after: string | null;
  add: (kind: string) => void;
  close: () => void;
}) {
  return (
    <Chooser
      title={after === null ? "Add a step" : `Add a step after ${after}`}
      label="Kind of step"
      items={kinds.map((k) => ({ key: k.name, name: k.name, about: k.doc }))}
      choose={add}
      close={close}
    />
  );
}

const itemOf = (s: DesignStep): Item => ({ key: s.address, name: s.title, about: `${s.kind}, ${s.address}` });

export function GateDialog({
  design,
  from,
  draw,
  close,
}: {
  design: Design;
  from: string;
  draw: (to: string) => void;
  close: () => void;
}) {
  const steps = (design.scopes.get(design.steps.get(from)?.scope ?? "")?.steps ?? []).filter(
    (s) => whyNoGate(design, from, s.address) === null,
  );
  return (
    <Chooser
      title={`Draw a gate from ${from}`}
      label="To which step"
      items={steps.map(itemOf)}
      choose={draw}
      close={close}
    />
  );
}

export function FindDialog({
  design,
  go,
  close,
}: {
  design: Design;
  go: (address: string) => void;
  close: () => void;
}) {
  return (
    <Chooser
      title="Find a step"
      label="Its title, id or kind"
      items={[...design.steps.values()].map(itemOf)}
      choose={go}
      close={close}
    />
  );
}
