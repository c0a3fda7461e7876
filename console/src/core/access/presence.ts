/** How long after the last key or click somebody counts as being there. */
const here = 60_000;

let last = Date.now();

/** Whether somebody is at the keyboard: what a page does by itself keeps no session alive. */
export const presence = () => (Date.now() - last < here ? "active" : "idle");

if (typeof window !== "undefined") {
  for (const event of ["pointerdown", "keydown", "wheel"])
    window.addEventListener(event, () => (last = Date.now()), { capture: true, passive: true });
}
