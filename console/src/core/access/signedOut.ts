type Listener = () => void;

/** Tells that the service does not know any more who asks. */
class SignedOut {
  #listeners = new Set<Listener>();

  subscribe(listener: Listener) {
    this.#listeners.add(listener);
    return () => {
      this.#listeners.delete(listener);
    };
  }

  /** While something is shown that is told once, nobody is led away from it. */
  isHeld = false;

  tell() {
    if (!this.isHeld) this.#listeners.forEach((listen) => listen());
  }
}

export const signedOut = new SignedOut();
