import { ChangeSet, EditorState, type Text } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { useEffect, useImperativeHandle, useLayoutEffect, useRef, type Ref } from "react";
import type { Desk, FieldSpan } from "../../api/client.ts";
import { difference, openFields, replaceText, setColumns, setFields, showBeneath, wordingEditor } from "./editor.ts";

export type WordingHandle = {
  openFields: () => void;
  /** Shows what the program has. */
  show: (text: string) => void;
  /** Keeps what is typed from now on to itself, until it is released. */
  hold: () => void;
  /** Shows the words that were waited for, null for the same ones, with what was typed meanwhile in its place among them. */
  release: (text: string | null) => void;
};

type Held = { before: Text; typed: ChangeSet };

type Props = {
  desk: Desk;
  /** Where the fields stand, and in which text. */
  said: { text: string; fields: FieldSpan[] };
  onType: (text: string) => void;
  onUndo: () => void;
  onRedo: () => void;
  ref: Ref<WordingHandle>;
};

/** The writing box itself. What it holds after it was made is the clerk's, until something else is to be shown. */
export default function WordingEditor({ desk, said, onType, onUndo, onRedo, ref }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const held = useRef<Held | null>(null);
  const listener = useRef({ onType, onUndo, onRedo });
  useEffect(() => {
    listener.current = { onType, onUndo, onRedo };
  }, [onType, onUndo, onRedo]);

  // As soon as its place is drawn: the focus may be waiting for it.
  useLayoutEffect(() => {
    if (!host.current) return undefined;
    const extensions = wordingEditor(
      (text, changes) => {
        if (held.current) held.current.typed = held.current.typed.compose(changes);
        else listener.current.onType(text);
      },
      () => listener.current.onUndo(),
      () => listener.current.onRedo(),
    );
    const made = new EditorView({ parent: host.current, state: EditorState.create({ doc: desk.wording, extensions }) });
    made.dispatch({ effects: setColumns.of(desk.columns) });
    view.current = made;
    return () => made.destroy();
    // The editor is made once a round; what it holds afterwards is the clerk's, not the server's.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [desk.id]);

  useEffect(() => {
    view.current?.dispatch({ effects: setColumns.of(desk.columns) });
  }, [desk.columns]);

  useEffect(() => {
    view.current?.dispatch({ effects: setFields.of(said) });
  }, [said]);

  useImperativeHandle(ref, () => ({
    openFields: () => view.current && openFields(view.current),
    show: (text) => {
      if (view.current && !held.current) replaceText(view.current, text);
    },
    hold: () => {
      if (!view.current || held.current) return;
      const before = view.current.state.doc;
      held.current = { before, typed: ChangeSet.empty(before.length) };
    },
    release: (text) => {
      const waited = held.current;
      held.current = null;
      if (!view.current || !waited) return;
      if (text !== null) showBeneath(view.current, difference(waited.before, text), waited.typed);
      if (!waited.typed.empty) listener.current.onType(view.current.state.doc.toString());
    },
  }));
  return <div ref={host} />;
}
