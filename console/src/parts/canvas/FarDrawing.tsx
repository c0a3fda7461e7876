import { useStore } from "@xyflow/react";
import { useLayoutEffect, useMemo, useRef } from "react";
import type { Box, Link } from "../../core/graph/flow";
import { absolutePlaces } from "../../core/designer/arrange";
import type { CanvasView } from "./CanvasView";
import type { EditView } from "./EditView";

interface Props {
  boxes: readonly Box[];
  links: readonly Link[];
  view: CanvasView | null;
  edit: EditView;
}

const stateColours: Record<string, string> = {
  running: "--running",
  failed: "--failed",
  succeeded: "--succeeded",
  paused: "--paused",
  held: "--resting",
  waiting: "--resting",
  retrying: "--resting",
};
const problemColours = { error: "--failed", warning: "--resting", hint: "--soft" };

/**
 * Many steps seen from afar, where no word could be read: drawn in one go, as a thousand elements of the page would be
 * slow. Choosing is done by who owns the pane.
 */
export function FarDrawing({ boxes, links, view, edit }: Props) {
  const [x, y, zoom] = useStore((s) => s.transform);
  const width = useStore((s) => s.width);
  const height = useStore((s) => s.height);
  const sheet = useRef<HTMLCanvasElement>(null);
  const shape = useMemo(() => shapeOf(boxes, links), [boxes, links]);
  useLayoutEffect(() => {
    const pen = sheet.current?.getContext("2d");
    if (!pen || !sheet.current) return;
    const dense = window.devicePixelRatio;
    if (sheet.current.width !== Math.round(width * dense) || sheet.current.height !== Math.round(height * dense)) {
      sheet.current.width = Math.round(width * dense);
      sheet.current.height = Math.round(height * dense);
    }
    const styles = getComputedStyle(sheet.current);
    const colour = (name: string) => styles.getPropertyValue(name).trim();
    const line = (pixels: number) => pixels / zoom;
    pen.setTransform(1, 0, 0, 1, 0, 0);
    pen.clearRect(0, 0, sheet.current.width, sheet.current.height);
    pen.setTransform(dense * zoom, 0, 0, dense * zoom, dense * x, dense * y);
    pen.lineWidth = line(1);
    pen.strokeStyle = colour("--link");
    for (const box of shape.places) if (box.inner) paint(pen, box, colour("--paper"), colour("--line"), line(1));
    pen.strokeStyle = colour("--link");
    pen.lineWidth = line(0.8);
    pen.stroke(shape.links);
    for (const box of shape.places) {
      const state = view?.step(box.id)?.state;
      const problem = edit.problems.get(box.id);
      const mark = edit.changes.has(box.id)
        ? "--accent"
        : problem
          ? problemColours[problem]
          : (stateColours[state ?? ""] ?? "");
      if (!box.inner) {
        pen.globalAlpha = edit.never.has(box.id) ? 0.45 : 1;
        paint(pen, box, colour("--sheet"), colour(mark === "" ? "--soft" : mark), line(mark === "" ? 1 : 1.5));
        // What a colour says is said by a bar as well, which is there or not.
        if (mark !== "") {
          pen.fillStyle = colour(mark);
          pen.fillRect(box.x, box.y, box.width / 4, box.height);
        }
        pen.globalAlpha = 1;
      }
      if (edit.chosen.has(box.id)) {
        pen.strokeStyle = colour("--accent");
        pen.lineWidth = line(3);
        pen.strokeRect(box.x, box.y, box.width, box.height);
      }
    }
    sheet.current.dataset["drawn"] = String(shape.places.length);
  });
  return (
    <canvas
      ref={sheet}
      className="fardrawing"
      style={{ width, height }}
      role="img"
      aria-label={`The drawing from afar: ${String(boxes.length)} steps. Zoom in to read them.`}
    />
  );
}

function paint(
  pen: CanvasRenderingContext2D,
  box: { x: number; y: number; width: number; height: number },
  fill: string,
  stroke: string,
  width: number,
) {
  pen.fillStyle = fill;
  pen.fillRect(box.x, box.y, box.width, box.height);
  pen.strokeStyle = stroke;
  pen.lineWidth = width;
  pen.strokeRect(box.x, box.y, box.width, box.height);
}

/** Boxes at their places in the whole drawing, and all links as one path. */
function shapeOf(boxes: readonly Box[], links: readonly Link[]) {
  const at = absolutePlaces(boxes);
  const places = boxes.map((b) => ({
    id: b.id,
    inner: b.step.inner != null,
    ...(at.get(b.id) ?? b),
    width: b.width,
    height: b.height,
  }));
  const known = new Map(places.map((p) => [p.id, p]));
  const path = new Path2D();
  for (const link of links) {
    const [from, to] = [known.get(link.source), known.get(link.target)];
    if (!from || !to) continue;
    const [x1, y1, x2, y2] = [from.x + from.width, from.y + from.height / 2, to.x, to.y + to.height / 2];
    const bend = Math.max(30, Math.abs(x2 - x1) / 2);
    path.moveTo(x1, y1);
    path.bezierCurveTo(x1 + bend, y1, x2 - bend, y2, x2, y2);
  }
  return { places, links: path };
}
