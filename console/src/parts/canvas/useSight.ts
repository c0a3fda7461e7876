import { getViewportForBounds, useReactFlow, useStoreApi } from "@xyflow/react";
import { useMemo } from "react";
import { absolutePlaces } from "../../core/designer/arrange";
import type { Box } from "../../core/graph/flow";

/** At this size no word is smaller than eleven pixels. */
const readable = 0.92;

/** Room around the drawing at first, in pixels. */
const edge = 20;

/** Of more steps the whole is shown at first, small as it may be. */
const most = 120;

const extentOf = (boxes: readonly Box[]) => ({
  left: Math.min(...boxes.map((b) => b.x)),
  top: Math.min(...boxes.map((b) => b.y)),
  right: Math.max(...boxes.map((b) => b.x + b.width)),
  bottom: Math.max(...boxes.map((b) => b.y + b.height)),
});

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
    /** The size at which all of a drawing is seen. */
    const wholeZoom = (boxes: readonly Box[]) => {
      const { width, height } = pane.getState();
      const { left, top, right, bottom } = extentOf(boxes.filter((b) => b.parent === null));
      return Math.min((width - 2 * edge) / (right - left), (height - 2 * edge) / (bottom - top));
    };
    /**
     * The whole drawing where it can be read, else its beginning, or what needs a look, at a size that can be. Tells
     * whether it is the whole.
     */
    const first = (boxes: readonly Box[], look: string | undefined): boolean => {
      const { width, height } = pane.getState();
      if (boxes.length === 0 || width === 0) return true;
      const at = absolutePlaces(boxes);
      const outer = boxes.filter((b) => b.parent === null);
      const { left, top, right, bottom } = extentOf(outer);
      const whole = wholeZoom(boxes);
      // From afar the drawing is one of its own kind.
      if (boxes.length > most) {
        fit(outer, boxes, 0);
        return true;
      }
      const zoom = whole >= readable ? Math.min(1, whole) : readable;
      // Where what needs a look stands in the view; the drawing does not leave it.
      const box = boxes.find((b) => b.id === look);
      const place = box && at.get(box.id);
      const along = (size: number, from: number, to: number, middle: number | undefined) => {
        const room = (size - 2 * edge) / zoom;
        if (to - from <= room) return edge + ((room - (to - from)) / 2 - from) * zoom;
        const begin = middle === undefined ? from : Math.min(Math.max(middle - room / 2, from), to - room);
        return edge - begin * zoom;
      };
      const view = {
        x: along(width, left, right, box && place && place.x + box.width / 2),
        y: along(height, top, bottom, box && place && place.y + box.height / 2),
        zoom,
      };
      void flow.setViewport(view);
      return whole >= readable;
    };
    const all = (boxes: readonly Box[], duration = 200) =>
      fit(
        boxes.filter((b) => b.parent === null),
        boxes,
        duration,
      );
    return {
      first,
      /** The whole drawing. */
      all,
      /** The whole drawing, when a part of it is out of sight. */
      within: (boxes: readonly Box[]) => {
        const {
          transform: [x, y, zoom],
          width,
          height,
        } = pane.getState();
        const { left, top, right, bottom } = extentOf(boxes.filter((b) => b.parent === null));
        const isOut =
          left * zoom + x < 0 || top * zoom + y < 0 || right * zoom + x > width || bottom * zoom + y > height;
        if (isOut) all(boxes, 150);
      },
      /** At its own size; what stands in the middle stays there. */
      natural: () => void flow.zoomTo(1, { duration: 150 }),
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
