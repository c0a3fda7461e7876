// @vitest-environment jsdom
import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeAll, beforeEach, expect, test, vi } from "vitest";
import type { DraftInfo } from "../../../core/api/types";
import { DesignStore } from "../../../core/designer/DesignStore";
import type { Schema } from "../../../core/designer/schema";
import { DesignContext, type Designing } from "../useDesign";
import { SchemaForm } from "./SchemaForm";
import { fakeMatchMedia } from "../../../testing/matchMedia";

vi.mock("../../../core/api/client", async (original) => ({
  ...(await original<object>()),
  saveDraft: vi.fn(() => new Promise(() => undefined)),
  checkDraft: () => Promise.resolve([]),
}));

const duration = { "x-form": "duration" };
const schema: Schema = { properties: { every: duration, after: duration, limit: duration }, required: ["every"] };
const path = ["steps", "a", "set"];
const draft = { chain: "milk", version: 1, source: "chain: milk\nsteps:\n  a: { kind: other }\n" } as DraftInfo;

let store: DesignStore;
beforeAll(fakeMatchMedia);
beforeEach(() => {
  vi.useFakeTimers();
  store = new DesignStore("milk", draft);
  const designing = { store, pastRun: null, context: { connections: [], files: [] } } as unknown as Designing;
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MantineProvider>
        <DesignContext value={designing}>
          <SchemaForm schema={schema} path={path} spot={{ step: "a", place: null, scope: null, from: null }} />
        </DesignContext>
      </MantineProvider>
    </QueryClientProvider>,
  );
});
afterEach(() => {
  cleanup();
  store.close();
  vi.useRealTimers();
});

const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
const wait = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));
const type = (label: string, text: string) => fireEvent.change(field(label), { target: { value: text } });
const written = () => store.text.split("\n").find((line) => line.includes("other")) ?? "";

test.each([50, 150, 400, 2_000])("a field under More keeps focus and text over a pause of %i ms", async (pause) => {
  fireEvent.click(screen.getByRole("button", { name: "More: after, limit" }));
  const after = field("After");
  after.focus();
  for (const text of ["5", "5m", "5m3", "5m30s", "", "1", "1h"]) {
    type("After", text);
    await wait(pause);
    expect(document.activeElement).toBe(after);
    expect(after.value).toBe(text);
  }
  await wait(1_000);
  expect(field("After")).toBe(after);
  expect(store.text).toContain("after: 1h");
});

test("a value that comes from elsewhere shows its field, and folding hides what has none", async () => {
  expect(screen.queryByLabelText("Limit")).toBeNull();
  act(() => store.apply({ text: draft.source.replace("kind: other", "kind: other, set: { limit: 2h }") }));
  expect(field("Limit").value).toBe("2h");
  fireEvent.click(screen.getByRole("button", { name: "More: after" }));
  expect(field("After").value).toBe("");
  fireEvent.click(screen.getByRole("button", { name: "Less" }));
  expect(screen.queryByLabelText("After")).toBeNull();
  expect(field("Limit").value).toBe("2h");
  expect(written()).toContain("limit: 2h");
});
