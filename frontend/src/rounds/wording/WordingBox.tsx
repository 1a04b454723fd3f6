import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { useEffect, useMemo, useRef } from "react";
import type { Desk } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button, Key } from "../../ui/Button.tsx";
import type { KeptWording } from "./useWording.ts";
import { openFields, setColumns, wordingEditor } from "./editor.ts";

type Props = { desk: Desk; problems: Desk["wording_problems"]; wording: KeptWording };

/** The writing box. It holds what is typed; the program keeps every keystroke and answers with the slip. */
export function WordingBox({ desk, problems, wording }: Props) {
  const { said, behind, type, seen, keepMine, takeTheirs, answer } = wording;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const listener = useRef(type);
  useEffect(() => {
    listener.current = type;
  }, [type]);

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

  const show = (text: string) => {
    const shown = view.current?.state.doc;
    if (shown && shown.toString() !== text) view.current?.dispatch({ changes: { from: 0, to: shown.length, insert: text } });
  };
  const answered = answer?.version ?? 0;
  useEffect(() => {
    // Another window's words take the place of ours only where ours are all kept.
    if (desk.version >= answered && seen(desk.wording)) show(desk.wording);
  }, [desk.wording, desk.version, answered, seen]);

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
          {said}
        </span>
        <button
          type="button"
          className="flex items-center gap-1.5 text-ink-2 hover:text-ink"
          onClick={() => view.current && openFields(view.current)}
        >
          Insert a field <Key>{"{"}</Key>
        </button>
      </header>
      {behind !== null && (
        <div role="alert" className="border-b border-held px-3 py-2">
          <p className="text-held">
            Another window has changed the wording meanwhile. What you typed here is not kept yet; neither is lost.
          </p>
          <blockquote className="mt-1 max-h-28 overflow-auto border-l-2 border-rule-strong pl-2 wrap-anywhere whitespace-pre-wrap">
            {behind || "It is blank there."}
          </blockquote>
          <div className="mt-1.5 flex gap-2">
            <Button onClick={keepMine}>Keep mine</Button>
            <Button
              onClick={() => {
                takeTheirs();
                show(behind);
              }}
            >
              Take the other window’s
            </Button>
          </div>
        </div>
      )}
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
