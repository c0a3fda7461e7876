import { useEffect } from "react";

export const focusCanvas = () => (document.querySelector(".designcanvas") as HTMLElement | null)?.focus();

/** A dialog that was opened from the canvas gives the keyboard back to it. */
export function useCanvasAfterwards() {
  useEffect(() => () => void requestAnimationFrame(focusCanvas), []);
}
