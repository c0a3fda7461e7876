let isDown = false;
const ends = ["pointerup", "pointercancel"] as const;
window.addEventListener("pointerdown", () => (isDown = true), true);
for (const end of ends) window.addEventListener(end, () => (isDown = false), true);

/**
 * Does it at once, or when the pointer that is down comes up. A press on a button takes the focus from a field; were
 * the field's text to become an edit right then, the page would move, and the button away from under the pointer,
 * before the press is a click. It is done before the click is told.
 */
export function whenPointerIsUp(work: () => void) {
  if (!isDown) {
    work();
    return;
  }
  const up = () => {
    for (const end of ends) window.removeEventListener(end, up, true);
    work();
  };
  for (const end of ends) window.addEventListener(end, up, true);
}
