// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useField } from "./useField";

let committed: string[];
function Field({ value }: { value: string }) {
  const field = useField(value, (text) => committed.push(text));
  return <input value={field.value} onChange={(e) => field.onChange(e.target.value)} onBlur={field.onBlur} />;
}
const input = () => screen.getByRole<HTMLInputElement>("textbox");
const type = (text: string) => fireEvent.change(input(), { target: { value: text } });

beforeEach(() => {
  committed = [];
  vi.useFakeTimers();
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

test("what is typed becomes one edit when the typing pauses", () => {
  render(<Field value="a" />);
  type("ab");
  vi.advanceTimersByTime(100);
  type("abc");
  expect(committed).toEqual([]);
  vi.advanceTimersByTime(1_000);
  expect(committed).toEqual(["abc"]);
});

test("what comes from elsewhere is shown, but not over what is being typed", () => {
  const { rerender } = render(<Field value="a" />);
  rerender(<Field value="b" />);
  expect(input().value).toBe("b");
  type("bc");
  rerender(<Field value="x" />);
  expect(input().value).toBe("bc");
});

test("a field that is left is an edit at once, and one that goes away too", () => {
  const { unmount } = render(<Field value="a" />);
  type("ab");
  fireEvent.blur(input());
  expect(committed).toEqual(["ab"]);
  type("abc");
  unmount();
  expect(committed).toEqual(["ab", "abc"]);
});

test("a field that is left by a press is an edit when the pointer is up, so that nothing moves away under it, and before the click", () => {
  render(<Field value="a" />);
  type("ab");
  fireEvent.pointerDown(document.body);
  fireEvent.blur(input());
  expect(committed).toEqual([]);
  document.body.addEventListener("click", () => committed.push("click"), { once: true });
  fireEvent.pointerUp(document.body);
  fireEvent.click(document.body);
  expect(committed).toEqual(["ab", "click"]);
});

test("a press that becomes a drag is no exception", () => {
  render(<Field value="a" />);
  type("ab");
  fireEvent.pointerDown(document.body);
  fireEvent.blur(input());
  fireEvent.pointerCancel(document.body);
  expect(committed).toEqual(["ab"]);
});
