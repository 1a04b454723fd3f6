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
import { ChangeSet, EditorState, Facet, Prec, RangeSetBuilder, StateEffect, StateField, Transaction, type Extension, type Text } from "@codemirror/state";
import {
  Decoration,
  EditorView,
  keymap,
  placeholder,
  ViewPlugin,
  WidgetType,
  type DecorationSet,
  type ViewUpdate,
} from "@codemirror/view";
import type { ColumnOut } from "../../api/client.ts";
import { isComputed } from "../columns.ts";
import { nonce } from "../../ui/nonce.ts";

// Two brackets of a kind write one, so they begin and end no field.
const FIELD = /\{\{|\}\}|\{([^{}\n]*)\}/g;

/** Column names match in any case, with runs of white space as one, as the program reads them. */
const key = (name: string): string => name.normalize("NFC").trim().split(/\s+/).join(" ").toLowerCase();

export const setColumns = StateEffect.define<ColumnOut[]>();

const columnsField = StateField.define<ColumnOut[]>({
  create: () => [],
  update: (columns, tr) => tr.effects.reduce((now, e) => (e.is(setColumns) ? e.value : now), columns),
});

/** Whether the box holds a link's template, where {?Due,Berth} makes a query of two columns (RFC 6570). */
const inLink = Facet.define<boolean, boolean>({ combine: (given) => given.includes(true) });

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

/** The columns of a template's bracket: behind its sign, between commas, and before a length. */
const namesIn = (inside: string): string[] =>
  inside.replace(/^[+#./;?&]/, "").split(",").map((name) => name.replace(/(\*|:\d+)$/, ""));

function drawFields(view: EditorView): { drawn: DecorationSet; solid: DecorationSet } {
  const known = new Map(view.state.field(columnsField).map((c) => [key(c.name), c]));
  const drawn = new RangeSetBuilder<Decoration>();
  const solid = new RangeSetBuilder<Decoration>();
  const text = view.state.doc.toString();
  for (const match of text.matchAll(FIELD)) {
    if (match[1] === undefined) continue;
    const [from, to] = [match.index, match.index + match[0].length];
    const column = known.get(key(match[1] ?? ""));
    if (column === undefined && view.state.facet(inLink) && namesIn(match[1] ?? "").every((name) => known.has(key(name)))) {
      drawn.add(from, to, Decoration.mark({ class: "field-query" }));
    } else if (column === undefined) {
      const unknown = Decoration.mark({ class: "field-unknown", attributes: { title: "No column is called that" } });
      drawn.add(from, to, unknown);
    } else {
      const token = Decoration.replace({ widget: new Token(column.name, isComputed(column)) });
      drawn.add(from, to, token);
      solid.add(from, to, token);
    }
  }
  return { drawn: drawn.finish(), solid: solid.finish() };
}

const fields = ViewPlugin.fromClass(
  class {
    drawn: DecorationSet;
    solid: DecorationSet;
    constructor(view: EditorView) {
      ({ drawn: this.drawn, solid: this.solid } = drawFields(view));
    }
    update(update: ViewUpdate) {
      const columnsChanged = update.startState.field(columnsField) !== update.state.field(columnsField);
      if (update.docChanged || columnsChanged) ({ drawn: this.drawn, solid: this.solid } = drawFields(update.view));
    }
  },
  {
    decorations: (plugin) => plugin.drawn,
    // The caret steps over a field as over one character.
    provide: (plugin) => EditorView.atomicRanges.of((view) => view.plugin(plugin)?.solid ?? Decoration.none),
  },
);

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

/** Opens the list of columns where the caret stands. */
export function openFields(view: EditorView): void {
  const at = view.state.selection.main;
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
  link = false,
): Extension {
  return [
    inLink.of(link),
    EditorView.cspNonce.of(nonce),
    columnsField,
    fields,
    autocompletion({ override: [complete], icons: false, interactionDelay: 0, activateOnTyping: true }),
    Prec.highest(
      keymap.of([
        { key: "Enter", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Tab", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Escape", run: closeCompletion },
      ]),
    ),
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

export function wordingEditor(onChange: (text: string, changes: ChangeSet) => void, undo: () => void, redo: () => void): Extension {
  return [
    fieldEditor(completeFields, onChange, roundHistory(undo, redo)),
    placeholder("Write the text once. Press { to put in a column."),
    EditorView.contentAttributes.of({ "aria-label": "Wording", spellcheck: "true" }),
  ];
}
