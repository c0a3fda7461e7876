import type { DraftNotification, RunDetail, RunPatch, RunSummary } from "../api/types";

type Listener = (connected: boolean) => void;

/** Whether the streams that are open bring something; told to whoever shows it. */
class Connection {
  #lost = new Set<EventSource>();
  #listeners = new Set<Listener>();

  get connected() {
    return this.#lost.size === 0;
  }

  subscribe = (listener: Listener) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  mark(source: EventSource, lost: boolean) {
    const before = this.connected;
    if (lost) this.#lost.add(source);
    else this.#lost.delete(source);
    if (before !== this.connected) this.#listeners.forEach((tell) => tell(this.connected));
  }
}

export const connection = new Connection();

// A beat comes every 5 s; three missing ones mean that the other end is gone, whatever the browser thinks.
const SILENCE = 15_000;

/**
 * Opens a stream of events, and opens it again when it is lost.
 * @param opened called each time it is open: what happened before was not sent
 */
function open(url: string, events: Record<string, (data: unknown) => void>, opened?: () => void): () => void {
  let source: EventSource;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let closed = false;

  const alive = () => {
    connection.mark(source, false);
    clearTimeout(timer);
    timer = setTimeout(again, SILENCE);
  };
  const again = () => {
    if (closed) return;
    const old = source;
    old.close();
    connect();
    connection.mark(source, true);
    connection.mark(old, false);
  };
  const connect = () => {
    source = new EventSource(url);
    source.onopen = () => {
      alive();
      opened?.();
    };
    source.onerror = () => {
      connection.mark(source, true);
      clearTimeout(timer);
      timer = setTimeout(again, 1_000);
    };
    source.addEventListener("beat", alive);
    for (const [name, take] of Object.entries(events)) {
      source.addEventListener(name, (event) => {
        alive();
        take(JSON.parse((event as MessageEvent<string>).data));
      });
    }
  };
  connect();
  return () => {
    closed = true;
    clearTimeout(timer);
    source.close();
    connection.mark(source, false);
  };
}

/** Follows one run: all of it first, then what changes. */
export const followRun = (id: number, whole: (run: RunDetail) => void, change: (patch: RunPatch) => void) =>
  open(`/api/runs/${String(id)}/live`, {
    run: (data) => whole(data as RunDetail),
    change: (data) => change(data as RunPatch),
  });

const draftListeners = new Set<(draft: DraftNotification) => void>();

/** Calls back for every draft that is saved or discarded, also by this browser. */
export function onDraft(listener: (draft: DraftNotification) => void): () => void {
  draftListeners.add(listener);
  return () => void draftListeners.delete(listener);
}

/** Calls back for every run that starts, ends or is resumed, and those who listen for drafts. */
export const followRuns = (changed: (run: RunSummary) => void, opened: () => void) =>
  open(
    "/api/live",
    {
      run: (data) => changed(data as RunSummary),
      draft: (data) => draftListeners.forEach((listener) => listener(data as DraftNotification)),
    },
    opened,
  );
