// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { ConfirmButton } from "./Button.tsx";

afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

test("neither the second press of a hasty hand nor a held key answers a question, and a press after that does", () => {
  vi.useFakeTimers();
  const answered = vi.fn();
  render(<ConfirmButton onClick={answered}>Send 3 texts now</ConfirmButton>);
  const button = screen.getByRole("button");
  fireEvent.click(button);
  act(() => vi.advanceTimersByTime(300));
  fireEvent.click(button);
  expect(answered).not.toHaveBeenCalled();
  expect(button.getAttribute("aria-disabled")).toBe("true");
  act(() => vi.advanceTimersByTime(300));
  // A browser presses a button for each repeat of a held Enter, unless the key is refused.
  expect(fireEvent.keyDown(button, { key: "Enter", repeat: true })).toBe(false);
  expect(fireEvent.keyDown(button, { key: "Enter" })).toBe(true);
  fireEvent.click(button);
  expect(answered).toHaveBeenCalledTimes(1);
});
