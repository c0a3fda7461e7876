import { getViewportForBounds, useReactFlow, useStoreApi } from "@xyflow/react";
import { useMemo } from "react";
import { absolutePlaces } from "../../core/designer/arrange";
import type { Box } from "../../core/graph/flow";

/** Moves the view over the drawing; knows boxes by where they are, drawn as elements or not. */
export function useSight() {
  const flow = useReactFlow();
  const pane = useStoreApi();
  return useMemo(() => {
    const fit = (boxes: readonly Box[], all: readonly Box[], duration: number) => {
      const { width, height, minZoom } = pane.getState();
      if (boxes.length === 0 || width === 0) return;
      const at = absolutePlaces(all);
      const corners = boxes.map((b) => ({ from: at.get(b.id) ?? b, box: b }));
      const x = Math.min(...corners.map((c) => c.from.x));
      const y = Math.min(...corners.map((c) => c.from.y));
      const bounds = {
        x,
        y,
        width: Math.max(...corners.map((c) => c.from.x + c.box.width)) - x,
        height: Math.max(...corners.map((c) => c.from.y + c.box.height)) - y,
      };
      void flow.setViewport(getViewportForBounds(bounds, width, height, minZoom, 1.1, 0.1), { duration });
    };
    return {
      /** The whole drawing. */
      all: (boxes: readonly Box[], duration = 200) =>
        fit(
          boxes.filter((b) => b.parent === null),
          boxes,
          duration,
        ),
      /** One step. */
      one: (boxes: readonly Box[], id: string) =>
        fit(
          boxes.filter((b) => b.id === id),
          boxes,
          200,
        ),
      /** Moves to a step only when a part of it is out of sight. */
      keep: (boxes: readonly Box[], id: string | undefined) => {
        const box = boxes.find((b) => b.id === id);
        const at = box && absolutePlaces(boxes).get(box.id);
        if (!box || !at) return;
        const {
          transform: [x, y, zoom],
          width,
          height,
        } = pane.getState();
        const [left, top] = [at.x * zoom + x, at.y * zoom + y];
        if (left < 0 || top < 0 || left + box.width * zoom > width || top + box.height * zoom > height) {
          // Of what is wider than the view its beginning is shown.
          const [w, h] = [Math.min(box.width, (width - 32) / zoom), Math.min(box.height, (height - 32) / zoom)];
          void flow.setCenter(at.x + w / 2, at.y + h / 2, { zoom, duration: 150 });
        }
      },
    };
  }, [flow, pane]);
}
