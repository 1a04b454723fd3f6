import assert from "node:assert/strict";
import { test } from "vitest";
import { deskReducer, emptyDesk, type DeskAction, type DeskState } from "./state.ts";

const after = (...actions: DeskAction[]): DeskState => actions.reduce(deskReducer, emptyDesk);

test("choosing a row ends following", () => {
  assert.deepEqual(after({ type: "row chosen", row: 7 }), { ...emptyDesk, row: 7, following: false });
  assert.equal(after({ type: "row chosen", row: 7 }, { type: "following turned", on: true }).following, true);
});

test("stepping ends at the first and the last row", () => {
  const rows = 3;
  const down: DeskAction = { type: "row stepped", by: 1, rows };
  assert.deepEqual([after(down).row, after(down, down, down).row], [2, 3]);
  assert.equal(after(down, { type: "row stepped", by: -1, rows }, { type: "row stepped", by: -1, rows }).row, 1);
});

test("a mark and a finding exclude each other", () => {
  const words: DeskAction = { type: "words typed", words: "ines" };
  const blank = { check: "blank", first: 4, column: "Due" };
  const marked = after(words, { type: "mark chosen", mark: "Held" });
  assert.deepEqual(marked.filter, { mark: "Held", finding: null, wording: null, words: "ines" });
  const found = deskReducer(marked, { type: "finding chosen", finding: blank });
  assert.deepEqual(found.filter, { mark: null, finding: "blank", wording: null, words: "" }, "all of its rows are shown");
  assert.equal(deskReducer(found, { type: "mark chosen", mark: "Held" }).filter.finding, null);
});

test("a finding chosen selects its first row, and the cell that it is about", () => {
  const chosen = (column: string | null) => after({ type: "cell chosen", row: 9, column: "Mobile" }, { type: "finding chosen", finding: { check: "x", first: 4, column } });
  assert.deepEqual([chosen("Due").row, chosen("Due").column, chosen(null).column], [4, "Due", "Mobile"]);
  assert.equal(deskReducer(chosen("Due"), { type: "finding chosen", finding: null }).row, 4, "ended, the row stays");
});

test("a row that was looked for is shown, whatever was filtered", () => {
  const found = after({ type: "words typed", words: "x" }, { type: "mark chosen", mark: "Held" }, { type: "row found", row: 7 });
  assert.deepEqual([found.row, found.filter], [7, emptyDesk.filter]);
});

test("no action changes the state it was given", () => {
  const before = structuredClone(emptyDesk);
  after({ type: "row chosen", row: 3 }, { type: "words typed", words: "x" }, { type: "mark chosen", mark: "Sent" });
  assert.deepEqual(emptyDesk, before);
});
