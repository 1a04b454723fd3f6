// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { ColumnOut, Desk } from "../../api/client.ts";
import { HeadCell } from "./HeadCell.tsx";

afterEach(cleanup);

const column = {
  name: "Due",
  role: "money",
  recognised: "money",
  fallback: null,
  format: null,
  formula: null,
  template: null,
  problem: null,
  reading: null,
  in_doubt: false,
  blanks: 2,
  to_the_right: true,
} as unknown as ColumnOut;
const roles = [{ role: "money", doc: "" }] as unknown as Desk["roles"];

const formats = [{ way: "money", doc: "" }] as unknown as Desk["formats"];

function open() {
  const changed = vi.fn();
  render(<HeadCell column={column} roles={roles} formats={formats} locked={false} onChange={changed} onFormula={() => undefined} />);
  fireEvent.click(screen.getByTitle("Change what this column is for"));
  return changed;
}

test("what was set of a column together goes out as one change: two could cross", () => {
  const changed = open();
  fireEvent.change(screen.getByLabelText("When a cell is blank, write"), { target: { value: "nothing" } });
  fireEvent.change(document.getElementById("format") as HTMLSelectElement, { target: { value: "money" } });
  fireEvent.click(screen.getByText("Done"));
  expect(changed.mock.calls).toEqual([["Due", { fallback: "nothing", format: "money" }]]);
});

test("nothing goes out when nothing was set", () => {
  const changed = open();
  fireEvent.click(screen.getByText("Done"));
  expect(changed.mock.calls).toEqual([]);
});
