import { useReactFlow } from "@xyflow/react";
import { useState, type DragEvent } from "react";
import type { DesignState } from "../../../core/designer/DesignStore";
import { dropAt, type Drop } from "../../../core/designer/drops";
import { addBetween, addHandler, addStep } from "../../../core/designer/operations";
import type { Box, Link } from "../../../core/graph/flow";
import { stepHeight, stepWidth, type Point } from "../../../core/graph/places";
import { noteUsed } from "../kindsUsed";
import { useDesigning } from "../useDesign";
import { focusCanvas } from "./focus";

/**
 * Takes in kinds and occasions that are dragged from the palette.
 * @param wishes told where a new step was dropped, by its address
 */
export function useDrops(
  { design }: DesignState,
  boxes: readonly Box[],
  links: readonly Link[],
  places: ReadonlyMap<string, Point>,
  wishes: Map<string, Point>,
) {
  const { store } = useDesigning();
  const flow = useReactFlow();
  const [over, setOver] = useState<string | null>(null);
  const dropOf = (event: DragEvent): Drop =>
    dropAt(boxes, links, places, flow.screenToFlowPosition({ x: event.clientX, y: event.clientY }), {
      width: stepWidth,
      height: stepHeight,
    });
  const onDragOver = (event: DragEvent) => {
    event.preventDefault();
    event.dataTransfer.dropEffect = "copy";
    const { after, between, scope } = dropOf(event);
    setOver(between?.id ?? after?.id ?? (scope === "" ? null : scope));
  };
  const onDrop = (event: DragEvent) => {
    setOver(null);
    const occasion = event.dataTransfer.getData("application/x-gatechain-occasion");
    if (occasion !== "") {
      event.preventDefault();
      store.apply(addHandler(design, occasion));
      focusCanvas();
      return;
    }
    const kind = event.dataTransfer.getData("application/x-gatechain-kind");
    if (kind === "") return;
    event.preventDefault();
    const { scope, after, between, at } = dropOf(event);
    const byHand = boxes.some((b) => (b.parent ?? "") === scope && design.placed.has(b.id));
    const place: [number, number] | null = byHand && at ? [at.x, at.y] : null;
    const edited = between
      ? addBetween(design, scope, between.gate.index, kind, place)
      : addStep(design, scope, kind, after?.step.id ?? null, place);
    noteUsed(kind);
    if (at && !between) wishes.set(edited.id, at);
    store.apply(edited);
    focusCanvas();
  };
  return { over, onDragOver, onDragLeave: () => setOver(null), onDrop };
}
