import { Position } from "@xyflow/react";
import type { Box } from "../../../core/graph/flow";
import type { StepBoxNode } from "../../canvas/StepBox";

/** Where gates begin and end, told beforehand: a step needs not be measured before its gates can be drawn. */
export function docks(box: Box): StepBoxNode["handles"] {
  const y = box.height / 2;
  // Without a name of its own a dock's is null, which is not the same to the library as none: it would not find the
  // dock near the pointer.
  return [
    { id: null, type: "target", position: Position.Left, x: 0, y, width: 1, height: 1 },
    { id: null, type: "source", position: Position.Right, x: box.width, y, width: 1, height: 1 },
  ];
}

/** Whether two nodes are drawn alike. */
export function same(a: StepBoxNode, b: StepBoxNode): boolean {
  return (
    a.position.x === b.position.x &&
    a.position.y === b.position.y &&
    a.width === b.width &&
    a.height === b.height &&
    a.selected === b.selected &&
    a.parentId === b.parentId &&
    a.type === b.type &&
    a.draggable === b.draggable &&
    JSON.stringify({ ...a.data.step, inner: null, from: 0, to: 0, path: 0 }) ===
      JSON.stringify({ ...b.data.step, inner: null, from: 0, to: 0, path: 0 })
  );
}
