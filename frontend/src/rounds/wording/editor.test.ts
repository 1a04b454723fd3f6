// @vitest-environment jsdom
import { ChangeSet, EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { expect, test } from "vitest";
import { difference, replaceText, showBeneath } from "./editor.ts";

const made = (doc: string, caret: number) =>
  new EditorView({ state: EditorState.create({ doc, selection: { anchor: caret } }) });

test.each([
  ["Hello you", "Hello {Name} you", 9, 16],
  ["Hello you", "Hello", 9, 5],
  ["aaa", "aa", 1, 1],
  ["", "new", 0, 0],
  ["same", "same", 2, 2],
])("of %o becomes %o, and the caret stays with its words", (before, after, caret, then) => {
  const view = made(before, caret);
  replaceText(view, after);
  expect(view.state.doc.toString()).toBe(after);
  expect(view.state.selection.main.head).toBe(then);
});

test("what was typed while a step was on its way stands in the words that it brings", () => {
  const view = made("Hello Bo!", 9);
  const before = view.state.doc;
  const typed = ChangeSet.of([{ from: 9, insert: " Soon." }], 9);
  view.dispatch({ changes: typed });
  showBeneath(view, difference(before, "Hello !"), typed);
  expect(view.state.doc.toString()).toBe("Hello ! Soon.");
});
