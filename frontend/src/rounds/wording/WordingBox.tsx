import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { useEffect, useMemo, useRef } from "react";
import type { Desk } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Key } from "../../ui/Button.tsx";
import { openFields, setColumns, wordingEditor } from "./editor.ts";

type Props = { desk: Desk; problems: Desk["wording_problems"]; kept: string; onChange: (wording: string) => void };

/** The writing box. It holds what is typed; the program keeps every keystroke and answers with the slip. */
export function WordingBox({ desk, problems, kept, onChange }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const listener = useRef(onChange);
  useEffect(() => {
    listener.current = onChange;
  }, [onChange]);

  useEffect(() => {
    if (!host.current) return undefined;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({ doc: desk.wording, extensions: wordingEditor((text) => listener.current(text)) }),
    });
    made.dispatch({ effects: setColumns.of(desk.columns) });
    view.current = made;
    return () => made.destroy();
    // The editor is made once a round; what it holds afterwards is the clerk's, not the server's.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [desk.id]);

  useEffect(() => {
    view.current?.dispatch({ effects: setColumns.of(desk.columns) });
  }, [desk.columns]);

  const actions = useMemo<Action[]>(
    () => [
      { name: "wording", label: "Go to the wording", key: "w", perform: () => view.current?.focus() },
      {
        name: "field",
        label: "Insert a field into the wording",
        perform: () => view.current && openFields(view.current),
      },
    ],
    [],
  );
  useActions("wording", actions);

  return (
    <section aria-label="Wording" className="wording rounded-[3px] border border-rule-strong bg-leaf">
      <header className="flex items-center justify-between border-b border-rule px-3 py-1.5">
        <h2 className="label">Wording</h2>
        <span role="status" className="ml-3 mr-auto text-[12.5px] text-ink-2">
          {kept}
        </span>
        <button
          type="button"
          className="flex items-center gap-1.5 text-ink-2 hover:text-ink"
          onClick={() => view.current && openFields(view.current)}
        >
          Insert a field <Key>{"{"}</Key>
        </button>
      </header>
      <div ref={host} />
      {problems.length > 0 && (
        <ul className="border-t border-rule px-3 py-1.5 text-failed" aria-label="What is wrong with the wording">
          {problems.slice(0, 2).map((p) => (
            <li key={p.start}>
              {p.message} {p.remedy}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
