/**
 * Gathers what comes in bursts: the first item is handed on at once, what follows within the interval comes together at
 * its end. Of items with the same key only the latest is handed on.
 */
export class Batches<Item> {
  #waiting = new Map<unknown, Item>();
  #timer: ReturnType<typeof setTimeout> | undefined;

  /** @param every the interval, in milliseconds */
  constructor(
    readonly every: number,
    readonly take: (items: Item[]) => void,
  ) {}

  add(key: unknown, item: Item) {
    this.#waiting.set(key, item);
    if (this.#timer === undefined) this.#flush();
  }

  /** Hands nothing on any more. */
  close() {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    this.#waiting.clear();
  }

  #flush() {
    const items = [...this.#waiting.values()];
    this.#waiting.clear();
    this.#timer = setTimeout(() => {
      this.#timer = undefined;
      if (this.#waiting.size > 0) this.#flush();
    }, this.every);
    this.take(items);
  }
}
