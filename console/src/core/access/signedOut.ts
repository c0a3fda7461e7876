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

  tell() {
    this.#listeners.forEach((listen) => listen());
  }
}

export const signedOut = new SignedOut();
