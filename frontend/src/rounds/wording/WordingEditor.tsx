import { ChangeSet, EditorState, type Text } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { useEffect, useImperativeHandle, useLayoutEffect, useRef, type Ref } from "react";
import type { Desk, FieldSpan } from "../../api/client.ts";
import { difference, openFields, replaceText, setColumns, setFields, showBeneath, wordingEditor } from "./editor.ts";

/** Words that are marked, and what stands in front of them. */
export type Marked = { before: string; stretch: string };

export type WordingHandle = {
  /** What is marked; null where nothing is. */
  marked: () => Marked | null;
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
  /** What it holds at first. */
  text: string;
  /** Where the fields stand, and in which text. */
  said: { text: string; fields: FieldSpan[] };
  onType: (text: string) => void;
  onUndo: () => void;
  onRedo: () => void;
  ref: Ref<WordingHandle>;
};

/** The writing box itself. What it holds after it was made is the clerk's, until something else is to be shown. */
export default function WordingEditor({ desk, text, said, onType, onUndo, onRedo, ref }: Props) {
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
      (now, changes) => {
        if (held.current) held.current.typed = held.current.typed.compose(changes);
        else listener.current.onType(now);
      },
      () => listener.current.onUndo(),
      () => listener.current.onRedo(),
      desk.locale,
    );
    const made = new EditorView({ parent: host.current, state: EditorState.create({ doc: text, extensions }) });
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
    marked: () => {
      const state = view.current?.state;
      const { from, to } = state?.selection.main ?? { from: 0, to: 0 };
      return state && from < to ? { before: state.sliceDoc(0, from), stretch: state.sliceDoc(from, to) } : null;
    },
    openFields: () => view.current && openFields(view.current),
    show: (now) => {
      if (view.current && !held.current) replaceText(view.current, now);
    },
    hold: () => {
      if (!view.current || held.current) return;
      const before = view.current.state.doc;
      held.current = { before, typed: ChangeSet.empty(before.length) };
    },
    release: (now) => {
      const waited = held.current;
      held.current = null;
      if (!view.current || !waited) return;
      if (now !== null) showBeneath(view.current, difference(waited.before, now), waited.typed);
      if (!waited.typed.empty) listener.current.onType(view.current.state.doc.toString());
    },
  }));
  return <div ref={host} />;
}
