/** Puts the keyboard into the first field that has an error, once it is drawn. */
export const focusWrong = () =>
  void requestAnimationFrame(() =>
    document.querySelector<HTMLElement>("[role=dialog] [aria-invalid=true], form [aria-invalid=true]")?.focus(),
  );
