// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { MantineProvider } from "@mantine/core";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import { confirmGone } from "../core/api/client";
import type { RunDetail, WhyInfo } from "../core/api/types";
import { GateMark } from "./canvas/GateMark";
import { ParameterFields } from "./form/ParameterFields";
import { RunGrid } from "./run/RunGrid";
import { RunNotice } from "./run/RunNotice";
import { StateMark } from "./run/StateMark";
import { Values } from "./step/Values";
import { WhyView } from "./step/WhyView";
import { addressOf } from "../core/stepPath";
import { fakeMatchMedia } from "../testing/matchMedia";

vi.mock("../core/api/client", async (whole) => ({
  ...(await whole<object>()),
  confirmGone: vi.fn(() => Promise.resolve({})),
}));

beforeAll(fakeMatchMedia);
afterEach(cleanup);

const show = (what: ReactNode) =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <MantineProvider>{what}</MantineProvider>
    </QueryClientProvider>,
  );

describe("why", () => {
  const why: WhyInfo = {
    step: "price",
    state: "succeeded",
    sentence: "Its join is “some”.",
    join: "some",
    warnings: ["exit code 4"],
    guard: null,
    gates: [
      {
        from: "depots",
        label: "on failure",
        state: "open",
        saw: "failed",
        sentence: "“depots” failed: open.",
        parts: [
          { text: "size(x)", start: 0, value: "2" },
          { text: "y > 1", start: 9, value: null },
        ],
        error: null,
      },
    ],
    branches: [
      { name: "priced", taken: true, parts: [] },
      { name: "unpriced", taken: false, parts: [] },
    ],
  };

  it("tells gates with the values of their expressions, branches and warnings", () => {
    show(<WhyView why={why} />);
    const text = screen.getByTestId("why").textContent;
    for (const part of [
      "Its join is “some”.",
      "“depots” failed: open.",
      "size(x)2",
      "y > 1not looked at",
      "“priced” holds and was taken.",
      "“unpriced” does not hold.",
      "exit code 4",
    ])
      expect(text).toContain(part);
    expect(screen.getByLabelText("gate open")).toBeTruthy();
  });
});

describe("marks", () => {
  it("tell a state by mark and word together", () => {
    show(<StateMark state="failed" />);
    expect(screen.getByText("failed").textContent).toBe("✕failed");
    show(<StateMark state="skipped" short />);
    expect(screen.getByRole("img", { name: "skipped" }).textContent).toBe("–");
  });

  it("draw a gate parted when open and whole when shut", () => {
    const path = (state: string) => {
      const { container } = show(<GateMark state={state} />);
      return container.querySelector("path")?.getAttribute("d");
    };
    expect(path("open")).toContain("M9 12.5");
    expect(path("shut")).toBe("M9 1.5v15");
    show(<GateMark state="shut" inError />);
    expect(screen.getByLabelText("gate shut in error")).toBeTruthy();
  });
});

describe("the steps of a run", () => {
  const status = (path: string, state: string) => ({
    path,
    address: addressOf(path),
    state,
    attempt: 1,
    leg: 1,
    started: null,
    ended: null,
    due: null,
    message: null,
    absorbed: false,
    warned: false,
    progress: null,
    hold: null,
    lane: null,
    child: null,
    answered: null,
    hidden: 0,
  });
  const node = (address: string, inner: unknown) => ({
    id: address,
    address,
    kind: "x",
    title: `Title ${address}`,
    notes: null,
    join: "all",
    ifFails: "fail",
    disabled: false,
    note: null,
    guarded: false,
    lane: null,
    place: null,
    inner,
  });
  const run = {
    graph: { steps: [node("loop", { steps: [node("loop/load", null)], gates: [] })], gates: [], handlers: [] },
    steps: [status("loop", "failed"), status("loop[0]/load", "failed")],
    iterations: [
      {
        path: "loop[0]",
        step: "loop",
        index: 0,
        item: "west",
        state: "failed",
        started: null,
        ended: null,
        message: null,
      },
    ],
    attempts: [
      {
        number: 1,
        step: "loop[0]/load",
        leg: 1,
        attempt: 1,
        started: new Date(0).toISOString(),
        ended: new Date(50).toISOString(),
        result: "failed",
        error: null,
        retryAt: null,
      },
    ],
    gates: [],
    handlers: [],
  } as unknown as RunDetail;

  it("are chosen by a click and folded by theirs", () => {
    const choose = vi.fn();
    show(<RunGrid run={run} now={100} chosen={null} choose={choose} />);
    fireEvent.click(screen.getByText("Title loop/load"));
    expect(choose).toHaveBeenCalledWith("loop[0]/load");
    expect(screen.getByTitle(/^leg 1, attempt 1: failed, .* to .*, 50 ms$/)).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Fold west"));
    expect(screen.queryByText("Title loop/load")).toBeNull();
    expect(choose).toHaveBeenCalledTimes(1);
  });
});

describe("what a run waits for", () => {
  it("names what a lost attempt has left behind, and asks whether it is gone", () => {
    const run = {
      id: 7,
      error: null,
      try: null,
      state: "running",
      chain: "t",
      failures: [],
      status: { pausedBy: null, pausedSteps: [], resumeAt: null, failedAt: null },
      steps: [
        { path: "a", message: "process 12 can't be ended", leftOver: true },
        { path: "b", message: null, leftOver: false },
      ],
    } as unknown as RunDetail;
    const choose = vi.fn();
    show(<RunNotice run={run} now={0} past={false} choose={choose} />);
    expect(screen.getByRole("status").textContent).toContain("a was cut off, and process 12 can't be ended.");
    fireEvent.click(screen.getByRole("button", { name: "a" }));
    expect(choose).toHaveBeenCalledWith("a");
    fireEvent.click(screen.getByRole("button", { name: "It is gone" }));
    expect(vi.mocked(confirmGone).mock.calls).toEqual([[7, "a"]]);
  });
});

describe("values and fields", () => {
  it("show maps as a table and say when there is nothing", () => {
    show(<Values value={{ n: 5, list: ["a"] }} empty="nothing" />);
    expect(screen.getAllByRole("row").map((r) => r.textContent)).toEqual(["n5", 'list["a"]']);
    show(<Values value={{}} empty="It has given nothing." />);
    expect(screen.getByText("It has given nothing.")).toBeTruthy();
  });

  it("ask for parameters after their type", () => {
    const change = vi.fn();
    show(
      <ParameterFields
        given={{ fast: "false" }}
        change={change}
        parameters={[
          { name: "day", type: "timestamp", label: "Day", required: true, default: null, secret: false },
          { name: "fast", type: "bool", label: null, required: false, default: false, secret: false },
        ]}
      />,
    );
    fireEvent.change(screen.getByLabelText(/Day/), { target: { value: "2026-11-22" } });
    fireEvent.click(screen.getByRole("switch"));
    expect(change.mock.calls).toEqual([[{ fast: "false", day: "2026-11-22" }], [{ fast: "true" }]]);
  });
});
