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
import { EditorState, Prec, RangeSetBuilder, StateEffect, StateField, Transaction, type Extension } from "@codemirror/state";
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
import { nonce } from "../../ui/nonce.ts";

const FIELD = /\{([^{}\n]*)\}/g;

/** Column names match in any case, with runs of white space as one, as the program reads them. */
const key = (name: string): string => name.normalize("NFC").trim().split(/\s+/).join(" ").toLowerCase();

export const setColumns = StateEffect.define<ColumnOut[]>();

const columnsField = StateField.define<ColumnOut[]>({
  create: () => [],
  update: (columns, tr) => tr.effects.reduce((now, e) => (e.is(setColumns) ? e.value : now), columns),
});

class Token extends WidgetType {
  readonly name: string;
  constructor(name: string) {
    super();
    this.name = name;
  }
  override eq(other: Token): boolean {
    return other.name === this.name;
  }
  toDOM(): HTMLElement {
    const token = document.createElement("span");
    token.className = "field-token";
    token.textContent = this.name;
    token.title = `This row's ${this.name}`;
    return token;
  }
}

function drawFields(view: EditorView): { drawn: DecorationSet; solid: DecorationSet } {
  const known = new Map(view.state.field(columnsField).map((c) => [key(c.name), c.name]));
  const drawn = new RangeSetBuilder<Decoration>();
  const solid = new RangeSetBuilder<Decoration>();
  const text = view.state.doc.toString();
  for (const match of text.matchAll(FIELD)) {
    const [from, to] = [match.index, match.index + match[0].length];
    const name = known.get(key(match[1] ?? ""));
    if (name === undefined) {
      const unknown = Decoration.mark({ class: "field-unknown", attributes: { title: "No column is called that" } });
      drawn.add(from, to, unknown);
    } else {
      const token = Decoration.replace({ widget: new Token(name) });
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

function complete(context: CompletionContext): CompletionResult | null {
  const typed = context.matchBefore(/\{[^{}\n]*$/);
  if (!typed) return null;
  const columns = context.state.field(columnsField);
  return {
    from: typed.from + 1,
    validFor: /^[^{}\n]*$/,
    // In the sheet's own order, as the clerk knows it.
    options: columns.map((column, i) => ({ label: column.name, detail: column.role, apply: insertField, boost: -i / 10 })),
  };
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

export function wordingEditor(onChange: (text: string) => void): Extension {
  return [
    EditorView.cspNonce.of(nonce),
    columnsField,
    fields,
    history(),
    autocompletion({ override: [complete], icons: false, interactionDelay: 0, activateOnTyping: true }),
    Prec.highest(
      keymap.of([
        { key: "Enter", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Tab", run: (view) => completionStatus(view.state) === "active" && acceptCompletion(view) },
        { key: "Escape", run: closeCompletion },
      ]),
    ),
    keymap.of([...defaultKeymap, ...historyKeymap]),
    EditorView.lineWrapping,
    placeholder("Write the text once. Press { to put in a column."),
    EditorView.contentAttributes.of({ "aria-label": "Wording", spellcheck: "true" }),
    EditorState.allowMultipleSelections.of(false),
    EditorView.updateListener.of((update) => update.docChanged && onChange(update.state.doc.toString())),
  ];
}
