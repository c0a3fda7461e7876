// @vitest-environment jsdom
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Refused } from "../api/call";
import { getDraft, saveDraft } from "../api/client";
import type { DraftInfo } from "../api/types";
import { DesignStore } from "./DesignStore";
import { unsavedText } from "./shelf";

vi.mock("../api/client", async (original) => ({
  ...(await original<object>()),
  saveDraft: vi.fn(),
  getDraft: vi.fn(),
  checkDraft: () => Promise.resolve([]),
}));

const text = (step: string) => `chain: milk\nsteps:\n  ${step}: { kind: wait }\n`;
const draft = (version: number, source: string, author = "ann") =>
  ({ chain: "milk", version, source, author, saved: "2026-11-26T08:00:00Z" }) as unknown as DraftInfo;

/** The service, whose answers come when the test lets them. It keeps what it took, as the real one does. */
class Service {
  draft = draft(1, text("a"));
  waiting: { answer: () => void; lose: () => void }[] = [];
  refused = 0;

  save = (_: string, seen: number, source: string) => {
    let taken: DraftInfo | null = null;
    if (seen === this.draft.version) this.draft = taken = draft(seen + 1, source);
    const current = this.draft;
    if (!taken) this.refused++;
    return new Promise<DraftInfo>((done, failed) => {
      this.waiting.push({
        answer: () => (taken ? done(taken) : failed(new Refused("somebody else has saved it", 412, { current }))),
        lose: () => failed(new Refused("The service does not answer.", 0)),
      });
    });
  };

  async answer(how: "answer" | "lose" = "answer") {
    this.waiting.shift()?.[how]();
    await vi.advanceTimersByTimeAsync(0);
  }
}

let service: Service;
let store: DesignStore;

beforeEach(() => {
  localStorage.clear();
  vi.useFakeTimers();
  service = new Service();
  vi.mocked(saveDraft).mockImplementation(service.save);
  vi.mocked(getDraft).mockImplementation(() => Promise.resolve(service.draft));
  store = new DesignStore("milk", service.draft);
});
afterEach(() => {
  store.close();
  vi.useRealTimers();
});

const edit = (step: string) => store.apply({ text: text(step) });
const wait = (ms: number) => vi.advanceTimersByTimeAsync(ms);

test("an edit is saved a moment after it, and kept in the browser until then", async () => {
  edit("b");
  expect(store.state.saved).toBe("waiting");
  expect(unsavedText("milk")).toEqual({ text: text("b"), version: 1 });
  await wait(500);
  expect(store.state.saved).toBe("saving");
  await service.answer();
  expect(store.state).toMatchObject({ saved: "saved", version: 2 });
  expect(unsavedText("milk")).toBeNull();
});

test("what is edited while a slow save is under way is saved after it, from the version that it made", async () => {
  edit("b");
  await wait(500);
  edit("c");
  await wait(2_000);
  expect(service.waiting).toHaveLength(1);
  await service.answer();
  await service.answer();
  expect(service.draft).toMatchObject({ version: 3, source: text("c") });
  expect(store.state).toMatchObject({ saved: "saved", version: 3, theirs: null });
  expect(service.refused).toBe(0);
});

test("who asks for a save while one is under way hears when all of it is there", async () => {
  edit("b");
  await wait(500);
  edit("c");
  let all: boolean | null = null;
  void store.save().then((done) => (all = done));
  await service.answer();
  expect(all).toBeNull();
  await service.answer();
  expect(all).toBe(true);
});

test("news of one's own save that come before its answer are no conflict", async () => {
  edit("b");
  await wait(500);
  edit("c");
  store.noticeVersion(2);
  await wait(50);
  await service.answer();
  await service.answer();
  expect(store.state).toMatchObject({ saved: "saved", theirs: null });
});

test("a save whose answer is lost was one's own when it turns out to have been taken", async () => {
  edit("b");
  await wait(500);
  await service.answer("lose");
  expect(store.state.saved).toBe("lost");
  edit("c");
  await wait(2_500);
  await service.answer();
  await service.answer();
  expect(service.draft).toMatchObject({ version: 3, source: text("c") });
  expect(store.state).toMatchObject({ saved: "saved", theirs: null });
});

test("going back to what was saved before is saved when an answer was lost between", async () => {
  edit("b");
  await wait(500);
  await service.answer("lose");
  store.undo();
  await wait(2_500);
  await service.answer();
  await service.answer();
  expect(service.draft.source).toBe(text("a"));
  expect(store.state.saved).toBe("saved");
});

test("what somebody else saved is taken over where nothing is unsaved here, also when it is told during a save", async () => {
  service.draft = draft(2, text("x"), "ben");
  store.noticeVersion(2);
  await wait(0);
  expect(store.text).toBe(text("x"));
  edit("b");
  await wait(500);
  service.draft = draft(4, text("y"), "ben");
  store.noticeVersion(4);
  await service.answer();
  await wait(0);
  expect(store.text).toBe(text("y"));
  expect(store.state).toMatchObject({ saved: "saved", version: 4 });
});

test("where both have changed it a person decides, and nothing is saved before", async () => {
  edit("b");
  service.draft = draft(2, text("x"), "ben");
  await wait(500);
  await service.answer();
  expect(store.state).toMatchObject({ saved: "conflict", theirs: service.draft });
  edit("c");
  await wait(5_000);
  expect(service.waiting).toHaveLength(0);
  void store.keepMine();
  await wait(0);
  await service.answer();
  expect(service.draft).toMatchObject({ version: 3, source: text("c") });
  expect(store.state).toMatchObject({ saved: "saved", theirs: null });
});

test("theirs can be taken, and undo brings back what was here", async () => {
  edit("b");
  service.draft = draft(2, text("x"), "ben");
  await wait(500);
  await service.answer();
  store.take(service.draft);
  expect(store.text).toBe(text("x"));
  store.undo();
  await wait(500);
  await service.answer();
  expect(service.draft).toMatchObject({ version: 3, source: text("b") });
});
