import { lazy, Suspense, useCallback, useEffect, useMemo, useRef } from "react";
import type { Desk, WordingOfRound } from "../../api/client.ts";
import type { Panel } from "../compute/ComputeMenu.tsx";
import { Menu } from "../../ui/Menu.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button, Key } from "../../ui/Button.tsx";
import { focusRegion } from "../../ui/focus.ts";
import { holdKeys } from "../../ui/held.ts";
import { leftOf, type KeptWording } from "./useWording.ts";
import type { Marked, WordingHandle } from "./WordingEditor.tsx";
import { WordingNames } from "./WordingNames.tsx";

// The desk is on screen before the editor has come: until then the wording stands there as it is.
const WordingEditor = lazy(() => import("./WordingEditor.tsx"));

type Props = {
  desk: Desk;
  /** The wording that is written here; its name is null where it is for all the rest. */
  writing: WordingOfRound;
  wording: KeptWording;
  /** Only these rows are shown; the name of a wording, null for all. */
  shown: string | null;
  onChoose: (name: string | null) => void;
  onShow: (name: string | null) => void;
  onPanel: (panel: Panel) => void;
  onUndo: () => Promise<Desk | null>;
  onRedo: () => Promise<Desk | null>;
};

/** The writing box. It holds what is typed; the program keeps every keystroke and answers with the slip. */
export function WordingBox({ desk, writing, wording, shown, onChoose, onShow, onPanel, onUndo, onRedo }: Props) {
  const { said, behind, type, seen, keepMine, takeTheirs, answer } = wording;
  const editor = useRef<WordingHandle>(null);
  const show = (text: string) => editor.current?.show(text);
  /** A step over the round's changes; what is typed before its answer has come belongs to the words that it brings. */
  const last = useRef(Promise.resolve());
  const step = (going: () => Promise<Desk | null>) => {
    last.current = last.current.then(async () => {
      editor.current?.hold();
      const found = await going();
      const now = found ? textOf(found, writing.name) : null;
      if (now !== null) seen(now);
      editor.current?.release(now);
    });
  };
  const answered = answer?.version ?? 0;
  useEffect(() => {
    // Another window's words take the place of ours only where ours are all kept.
    if (desk.version >= answered && seen(writing.text)) show(writing.text);
  }, [writing.text, desk.version, answered, seen]);

  const newer = answer && answer.of === writing.name && answer.version > desk.version ? answer : null;
  const problems = newer ? newer.wording_problems : writing.problems;
  const fields = useMemo(
    () => (newer ? { text: newer.wording, fields: newer.wording_fields } : { text: writing.text, fields: writing.fields }),
    [newer, writing],
  );

  const insert = useCallback(() => {
    if (editor.current) editor.current.openFields();
    else focusRegion("wording");
  }, []);
  const takeReady = (field: string) => {
    show(field);
    type(field);
  };
  const addWording = useCallback(() => onPanel({ kind: "wording", was: null }), [onPanel]);
  const notices = useNotices();
  const makeStretch = useCallback(() => {
    const marked: Marked | null = editor.current?.marked() ?? null;
    if (marked) onPanel({ kind: "stretch", of: writing.name, ...marked });
    else notices.done("Mark the words first that are for some rows only.");
  }, [onPanel, writing.name, notices]);
  const actions = useMemo<Action[]>(
    () => [
      { name: "field", label: "Insert a field into the wording", perform: insert },
      { name: "stretch", label: "Have marked words for some rows only", keys: ["Alt m"], perform: makeStretch },
    ],
    [insert, makeStretch],
  );
  useActions("wording", actions);

  return (
    <section aria-label="Wording" data-region="wording" className="wording rounded-[3px] border border-rule-strong bg-leaf">
      <header className="flex flex-wrap items-center justify-between border-b border-rule px-3 py-1.5">
        <h2 className="label">Wording</h2>
        <span role="status" className="ml-3 mr-auto txt-12.5 text-ink-2">
          {said}
        </span>
        <button
          type="button"
          className="flex items-center gap-1.5 text-ink-2 hover:text-ink"
          onClick={insert}
        >
          Insert a field <Key>{"{"}</Key>
        </button>
        <button type="button" className="ml-3 text-ink-2 hover:text-ink" onClick={() => onPanel({ kind: "drawer", of: writing.name })}>
          Drawer
        </button>
        <Menu
          trigger={
            <button type="button" className="ml-3 text-ink-2 hover:text-ink data-[state=open]:text-ink">
              For some rows
            </button>
          }
          items={[
            { label: "Marked words for some rows only", about: "a sentence that stands where its condition is true", onSelect: makeStretch },
            { label: "Another wording for some rows", about: "a final reminder, a thank-you for who has paid", onSelect: addWording },
          ]}
        />
      </header>
      {desk.wordings.length > 1 && (
        <WordingNames desk={desk} writing={writing} shown={shown} fixed={behind !== null} onChoose={onChoose} onShow={onShow} onPanel={onPanel} />
      )}
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
      <Suspense fallback={<Coming wording={writing.text} />}>
        <WordingEditor desk={desk} text={leftOf(desk.uid, writing.name)?.text ?? writing.text} said={fields} onType={type} onUndo={() => step(onUndo)} onRedo={() => step(onRedo)} ref={editor} />
      </Suspense>
      {desk.ready_texts !== null && newer === null && (
        <p className="flex items-baseline gap-3 border-t border-rule px-3 py-1.5">
          <span className="min-w-0 flex-1">The column {desk.ready_texts} holds whole texts.</span>
          <Button kind="link" onClick={() => takeReady(`{${desk.ready_texts}}`)}>
            Use them as they stand
          </Button>
        </p>
      )}
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

/** What the wording of that name says; null where there is none any more. */
const textOf = (desk: Desk, name: string | null): string | null => desk.wordings.find((each) => each.name === name)?.text ?? null;

/** Has the focus that is meant for the box until the box has come: a cell that is left for it is left at once. */
function Coming({ wording }: { wording: string }) {
  const given = useRef<(() => void) | null>(null);
  useEffect(() => () => given.current?.(), []);
  const hold = () => {
    given.current ??= holdKeys(() => !!document.activeElement?.closest(".cm-content"));
  };
  return (
    <p tabIndex={-1} data-first onFocus={hold} className="plain-wording">
      {wording}
    </p>
  );
}
