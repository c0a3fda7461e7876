import type { ComponentProps } from "react";
import { Chooser } from "../../page/Chooser";
import { useCanvasAfterwards } from "../canvas/focus";

/** A chooser that was opened from the canvas, which has the keyboard again afterwards. */
export function CanvasChooser(props: ComponentProps<typeof Chooser>) {
  useCanvasAfterwards();
  return <Chooser {...props} />;
}
