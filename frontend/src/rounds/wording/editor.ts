import {
  acceptCompletion,
  autocompletion,
  closeCompletion,
  completionStatus,
  startCompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, isolateHistory } from "@codemirror/commands";
import { ChangeSet, EditorState, Prec, RangeSetBuilder, StateEffect, StateField, Transaction, type Extension, type Text } from "@codemirror/state";
import {
  Decoration,
  EditorView,
  keymap,
  placeholder,
  WidgetType,
  type DecorationSet,
} from "@codemirror/view";
import type { ColumnOut, FieldSpan } from "../../api/client.ts";
import { isComputed } from "../columns.ts";
import { nonce } from "../../ui/nonce.ts";

export const setColumns = StateEffect.define<ColumnOut[]>();

const columnsField = StateField.define<ColumnOut[]>({
  create: () => [],
  update: (columns, tr) => tr.effects.reduce((now, e) => (e.is(setColumns) ? e.value : now), columns),
});

/** Where fields stand, as the program says, and in which words. */
type Fields = { text: string; fields: FieldSpan[] };

export const setFields = StateEffect.define<Fields>();

class Token extends WidgetType {
  readonly name: string;
  readonly computed: boolean;
  constructor(name: string, computed: boolean) {
    super();
    this.name = name;
    this.computed = computed;
  }
  override eq(other: Token): boolean {
    return other.name === this.name && other.computed === this.computed;
  }
  toDOM(): HTMLElement {
    const token = document.createElement("span");
    token.className = this.computed ? "field-token field-computed" : "field-token";
    token.textContent = this.name;
    token.title = `This row's ${this.name}`;
    return token;
  }
}

const unknown = Decoration.mark({ class: "field-unknown", attributes: { title: "No column is called that" } });
const query = Decoration.mark({ class: "field-query" });

function drawn({ fields }: Fields, solid: boolean): DecorationSet {
  const set = new RangeSetBuilder<Decoration>();
  for (const { start, end, column, computed, known } of fields) {
    if (column !== null) set.add(start, end, Decoration.replace({ widget: new Token(column, computed) }));
    else if (!solid) set.add(start, end, known ? query : unknown);
  }
  return set.finish();
}

/** The fields as they were last said; while more is typed they move along, until the program has looked again. */
const fieldsOf = (solid: boolean) =>
  StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update: (kept, tr) => {
      let now = kept.map(tr.changes);
      for (const effect of tr.effects)
        // What was said of an earlier text is out of date.
        if (effect.is(setFields) && effect.value.text === tr.newDoc.toString()) now = drawn(effect.value, solid);
      return now;
    },
    provide: (field) =>
      solid
        ? // The caret steps over a field as over one character.
          EditorView.atomicRanges.of((view) => view.state.field(field))
        : EditorView.decorations.from(field),
  });

const fields = [fieldsOf(false), fieldsOf(true)];

/** A slip of paper beside what is offered, a paragraph each. */
export function note(lines: string[]): HTMLElement {
  const paper = document.createElement("div");
  for (const text of lines.filter(Boolean)) {
    const line = document.createElement("p");
    line.textContent = text;
    paper.append(line);
  }
  return paper;
}

/** Offers the columns once a bracket is opened. */
export function completeFields(context: CompletionContext): CompletionResult | null {
  const typed = context.matchBefore(/\{[^{}\n]*$/);
  if (!typed) return null;
  const columns = context.state.field(columnsField);
  return {
    from: typed.from + 1,
    validFor: /^[^{}\n]*$/,
    // In the sheet's own order, as the clerk knows it.
    options: columns.map((column, i) => ({
      label: column.name,
      detail: isComputed(column) ? `computed ${column.role}` : column.role,
      info: () => note([column.formula ?? column.template ?? column.doc, column.example && `for example ${column.example}`]),
      apply: insertField,
      boost: -i / 10,
    })),
  };
}

/** The same in a link, where a sign may stand behind the bracket and several columns in it. */
export function completeLink(context: CompletionContext): CompletionResult | null {
  const open = context.matchBefore(/\{[+#./;?&]?(?:[^{},\n]*,)*[^{},\n]*$/);
  const sign = open && /^\{(?:[+#./;?&]|[^{}\n]*,)/.test(open.text);
  if (!open || !sign) return completeFields(context);
  const name = open.text.slice(Math.max(1 + (/^\{[+#./;?&]/.test(open.text) ? 1 : 0), open.text.lastIndexOf(",") + 1));
  const columns = context.state.field(columnsField);
  return {
    from: open.to - name.length,
    validFor: /^[^{},\n]*$/,
    options: columns.map((column, i) => ({ label: column.name, detail: column.role, apply: closeField, boost: -i / 10 })),
  };
}

function closeField(view: EditorView, completion: Completion, from: number, to: number): void {
  const closed = view.state.sliceDoc(to, to + 1) === "}";
  const insert = completion.label + (closed ? "" : "}");
  view.dispatch({
    changes: { from, to, insert },
    selection: { anchor: from + completion.label.length + 1 },
    annotations: [isolateHistory.of("full"), Transaction.userEvent.of("input.complete")],
  });
}

function insertField(view: EditorView, completion: Completion, from: number, to: number): void {
  const closed = view.state.sliceDoc(to, to + 1) === "}" ? 1 : 0;
  view.dispatch({
    changes: { from: from - 1, to: to + closed, insert: `{${completion.label}}` },
    selection: { anchor: from - 1 + completion.label.length + 2 },
    // A step of its own for Undo: taking the field away must not take the words before it.
    annotations: [isolateHistory.of("full"), Transaction.userEvent.of("input.complete")],
  });
}

/** The bracket that was put in to open the list of columns; null where none was. */
const opened = new WeakMap<EditorView, number>();

/** Puts the list of columns away, and the bracket that only opened it. */
function giveUpField(view: EditorView): boolean {
  const at = opened.get(view);
  opened.delete(view);
  const closed = closeCompletion(view);
  const { from } = view.state.selection.main;
  if (at === undefined || at >= from || !/^\{[^{}\n]*$/.test(view.state.sliceDoc(at, from))) return closed;
  view.dispatch({ changes: { from: at, to: from }, annotations: Transaction.userEvent.of("delete") });
  return true;
}

/** Opens the list of columns where the caret stands. */
export function openFields(view: EditorView): void {
  const at = view.state.selection.main;
  opened.set(view, at.from);
  view.dispatch({
    changes: { from: at.from, to: at.to, insert: "{" },
    selection: { anchor: at.from + 1 },
    annotations: Transaction.userEvent.of("input.type"),
  });
  view.focus();
  startCompletion(view);
}

/** Steps back over what was typed in a box that nobody has put in yet. */
export const ownHistory: Extension = [history(), keymap.of(historyKeymap)];

/** Steps back over the changes of the round, which the program keeps: a box of its own kept text has no other past. */
export const roundHistory = (undo: () => void, redo: () => void): Extension => {
  const run = (step: () => void) => () => {
    step();
    return true;
  };
  return keymap.of([
    { key: "Mod-z", run: run(undo), preventDefault: true },
    { key: "Mod-y", mac: "Mod-Shift-z", run: run(redo), preventDefault: true },
    { linux: "Ctrl-Shift-z", run: run(redo), preventDefault: true },
  ]);
};

/** What every box with fields in it has: solid tokens, a list that completes, and a way back. */
export function fieldEditor(
  complete: (context: CompletionContext) => CompletionResult | null,
  onChange: (text: string, changes: ChangeSet) => void,
  past: Extension,
): Extension {
  return [
    EditorView.cspNonce.of(nonce),
    columnsField,
    fields,
    Prec.highest(
      keymap.of([
        { key: "Enter", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Tab", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Escape", run: giveUpField },
      ]),
    ),
    // Behind these: it has keys of its own.
    autocompletion({ override: [complete], icons: false, interactionDelay: 0, activateOnTyping: true }),
    past,
    keymap.of(defaultKeymap),
    EditorView.lineWrapping,
    EditorState.allowMultipleSelections.of(false),
    EditorView.updateListener.of((update) => {
      const typed = update.transactions.some((tr) => tr.docChanged && !tr.annotation(Transaction.remote));
      if (typed) onChange(update.state.doc.toString(), update.changes);
    }),
  ];
}

/** What makes one text another: the piece between what both begin and end with. */
export function difference(before: Text, text: string): ChangeSet {
  const now = before.toString();
  let from = 0;
  while (from < Math.min(now.length, text.length) && now[from] === text[from]) from++;
  let behind = 0;
  while (behind < Math.min(now.length, text.length) - from && now.at(-1 - behind) === text.at(-1 - behind)) behind++;
  return ChangeSet.of({ from, to: now.length - behind, insert: text.slice(from, text.length - behind) }, now.length);
}

/** Shows a change that the program made beneath what was typed since then. */
export const showBeneath = (view: EditorView, change: ChangeSet, typed: ChangeSet): void =>
  view.dispatch({ changes: change.map(typed), annotations: Transaction.remote.of(true) });

/** Puts another text in the place of what stands there, as what the program has; the caret stays with its words. */
export function replaceText(view: EditorView, text: string): void {
  const now = view.state.doc;
  if (now.toString() !== text) showBeneath(view, difference(now, text), ChangeSet.empty(now.length));
}

export function wordingEditor(onChange: (text: string, changes: ChangeSet) => void, undo: () => void, redo: () => void, lang: string): Extension {
  return [
    fieldEditor(completeFields, onChange, roundHistory(undo, redo)),
    placeholder("Write the text once. Press { to put in a column."),
    EditorView.contentAttributes.of({ "aria-label": "Wording", spellcheck: "true", lang, "data-first": "" }),
  ];
}
