// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { aColumn } from "./aColumn.ts";
import { HeadCell } from "./HeadCell.tsx";

afterEach(cleanup);

const column = { ...aColumn("Due", "money"), blanks: 2 };
const queries = new QueryClient();
queries.setQueryData(["catalogue"], {
  roles: [{ role: "money", doc: "" }],
  formats: [{ kind: "money", doc: "" }],
  aggregates: [],
  checks: [],
  functions: [],
});

function open() {
  const changed = vi.fn();
  render(
    <QueryClientProvider client={queries}>
      <HeadCell column={column} locked={false} onChange={changed} onFormula={() => undefined} />
    </QueryClientProvider>,
  );
  const head = screen.getByTitle("Change what this column is for");
  head.focus();
  fireEvent.click(head);
  return changed;
}

test("what was set of a column together goes out as one change: two could cross", () => {
  const changed = open();
  fireEvent.change(screen.getByLabelText("Text when blank"), { target: { value: "nothing" } });
  fireEvent.change(document.getElementById("format") as HTMLSelectElement, { target: { value: "money" } });
  fireEvent.click(screen.getByText("Done"));
  expect(changed.mock.calls).toEqual([["Due", { fallback: "nothing", format: "money" }]]);
});

test("Escape keeps what is chosen, as Done does, and what is chosen has the focus first", () => {
  const changed = open();
  expect(document.activeElement).toBe(screen.getByRole("radio", { name: /money/ }));
  fireEvent.change(screen.getByLabelText("Text when blank"), { target: { value: "nothing" } });
  fireEvent.keyDown(document.activeElement as Element, { key: "Escape" });
  expect(changed.mock.calls).toEqual([["Due", { fallback: "nothing" }]]);
  expect(screen.queryByText("Done")).toBeNull();
});

test("nothing goes out when nothing was set", () => {
  const changed = open();
  fireEvent.click(screen.getByText("Done"));
  expect(changed.mock.calls).toEqual([]);
});

test("opened anew at once it keeps the focus, which what was closed gives back a moment late", async () => {
  open();
  const head = screen.getByTitle("Change what this column is for");
  fireEvent.keyDown(document.activeElement as Element, { key: "Escape" });
  fireEvent.click(head);
  const chosen = screen.getByRole("radio", { name: /money/ });
  await act(() => new Promise((done) => setTimeout(done, 20)));
  expect(document.activeElement).toBe(chosen);
  fireEvent.keyDown(chosen, { key: "Escape" });
  await act(() => new Promise((done) => setTimeout(done, 20)));
  expect(document.activeElement).toBe(head);
});
