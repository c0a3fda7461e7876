/** jsdom has no `matchMedia`, and Mantine asks for it: nothing matches. */
export function fakeMatchMedia() {
  window.matchMedia = (media) =>
    Object.assign(new EventTarget(), {
      matches: false,
      media,
      onchange: null,
      addListener: () => undefined,
      removeListener: () => undefined,
    });
}
