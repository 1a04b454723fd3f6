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

test("a mark and a finding exclude each other, and keep the words", () => {
  const words: DeskAction = { type: "words typed", words: "ines" };
  const marked = after(words, { type: "finding chosen", finding: "blank" }, { type: "mark chosen", mark: "Held" });
  assert.deepEqual(marked.filter, { mark: "Held", finding: null, words: "ines" });
  const found = deskReducer(marked, { type: "finding chosen", finding: "number" });
  assert.deepEqual(found.filter, { mark: null, finding: "number", words: "ines" });
  assert.deepEqual(deskReducer(found, { type: "mark chosen", mark: null }).filter, { ...emptyDesk.filter, words: "ines" });
});

test("no action changes the state it was given", () => {
  const before = structuredClone(emptyDesk);
  after({ type: "row chosen", row: 3 }, { type: "words typed", words: "x" }, { type: "mark chosen", mark: "Sent" });
  assert.deepEqual(emptyDesk, before);
});
