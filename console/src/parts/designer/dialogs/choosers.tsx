import { useEffect, useState } from "react";
import type { KindInfo } from "../../../core/api/types";
import { inOrder } from "../../../core/designer/kindOrder";
import { whyNoGate } from "../../../core/designer/operations";
import type { Design, DesignStep } from "../../../core/document/design";
import { isBand, occasionOf, occasions } from "../../../core/graph/bands";
import { fieldsOf } from "../inspector/fieldList";
import { recentKinds, useFavouriteKinds } from "../kindsUsed";
import type { Item } from "../../page/Chooser";
import { CanvasChooser } from "./CanvasChooser";

export function AddDialog({
  kinds,
  after,
  add,
  handle,
  close,
}: {
  kinds: KindInfo[];
  after: string | null;
  add: (kind: string) => void;
  handle: (occasion: string) => void;
  close: () => void;
}) {
  const [favourites] = useFavouriteKinds();
  return (
    <CanvasChooser
      title={after === null ? "Add a step" : `Add a step after ${after}`}
      label="Kind of step"
      items={[
        ...inOrder(kinds, favourites, recentKinds()).map((k) => ({
          key: k.name,
          name: k.name,
          about: k.doc,
          mark: favourites.includes(k.name) ? "★" : undefined,
        })),
        ...occasions.map((o) => ({ key: `@${o.name}`, name: `handler: ${o.title.toLowerCase()}`, about: o.about })),
      ]}
      choose={(key) => (isBand(key) ? handle(occasionOf(key)) : add(key))}
      close={close}
    />
  );
}

const itemOf = (s: DesignStep): Item => ({ key: s.address, name: s.title, about: `${s.kind}, ${s.address}` });

/** What the file says of a step itself and of the gates that lead to it; not what its inner steps say. */
function textOf(design: Design, step: DesignStep): string {
  const text = design.file.text;
  const inner = step.inner?.steps ?? [];
  const [from, to] = [Math.min(...inner.map((s) => s.from)), Math.max(...inner.map((s) => s.to))];
  const own =
    inner.length === 0 ? text.slice(step.from, step.to) : text.slice(step.from, from) + text.slice(to, step.to);
  const gates = (design.scopes.get(step.scope)?.gates ?? []).filter((g) => g.to === step.id);
  return [own, ...gates.map((g) => text.slice(g.start, g.end))].join("\n");
}

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
    <CanvasChooser
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
    <CanvasChooser
      title="Find"
      label="A step's title, id or kind, or anything in its settings, expressions and gates"
      items={[...design.steps.values()].map((s) => ({ ...itemOf(s), text: textOf(design, s) }))}
      choose={go}
      close={close}
    />
  );
}

const fieldsNow = () => fieldsOf(document.querySelector<HTMLElement>(".inspector"));

/** Goes to a field or button of the inspector by its name; those that come while it is open are offered, too. */
export function FieldDialog({ close }: { close: () => void }) {
  const [fields, setFields] = useState(fieldsNow);
  useEffect(() => {
    const inspector = document.querySelector(".inspector");
    if (!inspector) return;
    const watch = new MutationObserver(() => setFields(fieldsNow()));
    watch.observe(inspector, { childList: true, subtree: true });
    return () => watch.disconnect();
  }, []);
  const focus = (field: (typeof fields)[number] | undefined) => {
    if (!field) return;
    const same = fieldsNow().find((f) => f.name === field.name && f.about === field.about);
    (field.element.isConnected ? field.element : same?.element)?.focus();
  };
  return (
    <CanvasChooser
      title="Go to a field"
      label="Its name"
      items={fields.map((f, i) => ({ key: String(i), name: f.name, about: f.about }))}
      // The dialog gives the keyboard to the canvas when it closes; from there it goes on.
      choose={(key) => setTimeout(() => focus(fields[Number(key)]), 60)}
      close={close}
    />
  );
}
