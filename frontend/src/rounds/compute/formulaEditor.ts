import { snippet, type Completion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { Prec, StateEffect, StateField, type Extension } from "@codemirror/state";
import { Decoration, EditorView, keymap, placeholder, type DecorationSet } from "@codemirror/view";
import type { FunctionOut, Place } from "../../api/client.ts";
import { completeFields, completeLink, fieldEditor, note, ownHistory } from "../wording/editor.ts";

export const setProblem = StateEffect.define<Place | null>();

/** The place that the program says is wrong; it moves along while typing, until the program has looked again. */
const problemField = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update: (marks, tr) => {
    let now = marks.map(tr.changes);
    for (const effect of tr.effects) if (effect.is(setProblem)) now = drawn(effect.value, tr.newDoc.length);
    return now;
  },
  provide: (field) => EditorView.decorations.from(field),
});

function drawn(problem: Place | null, length: number): DecorationSet {
  if (!problem || length === 0) return Decoration.none;
  // A place behind the end is shown at the last character.
  const start = Math.min(problem.start, length - 1);
  const end = Math.min(Math.max(problem.end, start + 1), length);
  return Decoration.set([Decoration.mark({ class: "formula-wrong", attributes: { title: problem.message } }).range(start, end)]);
}

function about(entry: FunctionOut): HTMLElement {
  const example = entry.examples[0];
  return note([`${entry.name}(${entry.shape})`, entry.doc, example ? `${example.formula} = ${example.value}` : ""]);
}

/** Puts the function in with its brackets, the caret between them. */
const option = (entry: FunctionOut): Completion => ({
  label: entry.name,
  detail: entry.topic,
  info: () => about(entry),
  apply: entry.shape ? snippet(`${entry.name}(\${})`) : `${entry.name}()`,
});

const completeFormula =
  (functions: FunctionOut[]) =>
  (context: CompletionContext): CompletionResult | null => {
    const field = completeFields(context);
    if (field) return field;
    const word = context.matchBefore(/[A-Za-z]\w*$/);
    const before = word ? context.state.sliceDoc(0, word.from) : "";
    // Within a text in double quotes nothing is completed.
    if (!word || (before.split('"').length - 1) % 2) return null;
    return { from: word.from, validFor: /^\w*$/, options: functions.map(option) };
  };

export function formulaEditor(functions: FunctionOut[], label: string, hint: string, first: boolean, onChange: (text: string) => void): Extension {
  return [
    functions.length ? fieldEditor(completeFormula(functions), onChange, ownHistory) : fieldEditor(completeLink, onChange, ownHistory),
    problemField,
    placeholder(hint),
    EditorView.contentAttributes.of({ "aria-label": label, spellcheck: "false", autocapitalize: "off", ...(first ? { "data-first": "" } : {}) }),
    Prec.highest(
      keymap.of([
        {
          key: "Mod-Enter",
          run: (view) => {
            view.dom.closest("form")?.requestSubmit();
            return true;
          },
        },
      ]),
    ),
  ];
}
