import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Button, Key } from "./Button.tsx";
import { Dialog } from "./Dialog.tsx";
import { useActions, useAllActions, useFinders, type Action } from "./actions.tsx";
import { nextRegion } from "./focus.ts";

/** The palette and the page of keys, both read from the actions of the present screen. */
export function FindAnything() {
  const [open, setOpen] = useState<"find" | "keys" | null>(null);
  const own = useMemo<Action[]>(
    () => [
      { name: "find", label: "Find anything", keys: ["Ctrl k", "/"], perform: () => setOpen("find") },
      { name: "keys", label: "Show all keys", keys: ["?", "F1"], perform: () => setOpen("keys") },
      { name: "next part", label: "Go to the next part of the screen", keys: ["F6"], perform: () => nextRegion(1) },
      { name: "part before", label: "Go to the part before", keys: ["Shift F6"], perform: () => nextRegion(-1) },
    ],
    [],
  );
  useActions("palette", own);
  return (
    <>
      <button type="button" className="flex items-center gap-3 text-ink-2 hover:text-ink" onClick={() => setOpen("find")}>
        Find anything <Key>Ctrl k</Key>
      </button>
      {open === "find" && <Palette onClose={() => setOpen(null)} />}
      {open === "keys" && <Keys onClose={() => setOpen(null)} />}
    </>
  );
}

/** What the finders of the screen find by some words; null while they look. */
function useFound(words: string): Action[] | null {
  const finders = useFinders();
  const wanted = words.trim();
  const { data } = useQuery({
    queryKey: ["found", wanted],
    queryFn: async ({ signal }) => (await Promise.all(finders.map((find) => find(wanted, signal)))).flat(),
    enabled: wanted !== "" && finders.length > 0,
    gcTime: 0,
    staleTime: 0,
  });
  return wanted === "" || !finders.length ? [] : (data ?? null);
}

function Palette({ onClose }: { onClose: () => void }) {
  const actions = useAllActions().filter((a) => a.enabled !== false && a.name !== "find");
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const [taken, setTaken] = useState(false);
  const more = useFound(words);
  const needles = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = [...actions.filter((a) => needles.every((n) => a.label.toLowerCase().includes(n))), ...(more ?? [])];
  const chosen = Math.min(at, found.length - 1);
  const wanted = useRef<Action | null>(null);
  const take = (action: Action | undefined) => {
    if (!action) return;
    wanted.current = action;
    onClose();
  };
  // Enter may come before the rows that the words are found in.
  useEffect(() => {
    if (taken && more !== null) take(found[0]);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [taken, more]);
  return (
    <Dialog open onClose={onClose} onClosed={() => wanted.current?.perform()} title="Find anything">
      <input
        data-first
        role="combobox"
        aria-expanded="true"
        aria-controls="found"
        aria-activedescendant={found[chosen] ? `found-${chosen}` : undefined}
        aria-label="Something to do, a round, or a row by its number, a name or an amount"
        placeholder="Something to do, a row, a name, an amount"
        className="mt-4 w-full rounded-[3px] border border-rule-strong bg-leaf px-3 py-2 txt-15"
        value={words}
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
          setTaken(false);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(chosen + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(chosen - 1, 0));
          else if (e.key === "Enter" && !found.length && more === null) setTaken(true);
          else if (e.key === "Enter") take(found[chosen]);
          else return;
          e.preventDefault();
        }}
      />
      <ul id="found" role="listbox" aria-label="Found" className="mt-3 max-h-80 overflow-auto">
        {found.map((action, i) => (
          <li
            key={action.name}
            id={`found-${i}`}
            role="option"
            aria-selected={i === chosen}
            ref={(li) => {
              if (i === chosen) li?.scrollIntoView({ block: "nearest" });
            }}
            className={`option flex cursor-pointer items-center justify-between gap-4 rounded-[3px] px-3 py-1.5 txt-15 ${i === chosen ? "bg-chosen" : ""}`}
            onMouseMove={() => setAt(i)}
            onClick={() => take(action)}
          >
            {action.label}
            {action.keys?.[0] && <Key>{action.keys[0]}</Key>}
          </li>
        ))}
      </ul>
      <p role="status" className="mt-2 text-ink-2">
        {found.length === 0 && (more === null ? "Looking in the rows…" : "Nothing here is called that.")}
      </p>
    </Dialog>
  );
}

/** Keys that belong to a box or to the sheet, and are no actions of their own. */
const IN_BOXES = [
  ["In the sheet: change a cell", ["Enter", "F2"]],
  ["In the sheet: write over a cell", ["A … Z"]],
  ["In the sheet: give a change up", ["Escape"]],
  ["In the sheet: to the next cell, to the one before", ["Tab", "Shift Tab"]],
  ["In the sheet: to the ends of the row, of the sheet", ["Home", "End", "Ctrl Home", "Ctrl End"]],
  ["In the sheet: as far as the cells go", ["Ctrl + arrow"]],
  ["In the sheet: choose more cells", ["Shift + arrow", "Ctrl a"]],
  ["In the sheet: choose the row, the column", ["Shift Space", "Ctrl Space"]],
  ["In the sheet: empty what is chosen", ["Delete"]],
  ["In the sheet: copy, cut, paste", ["Ctrl c", "Ctrl x", "Ctrl v"]],
  ["In the sheet: fill down", ["Ctrl d"]],
  ["In the wording and in formulas: insert a field", ["{"]],
  ["In a formula: keep it", ["Ctrl Enter"]],
] as const;

function Keys({ onClose }: { onClose: () => void }) {
  const actions = useAllActions().filter((a) => a.keys);
  const rows = [...actions.map((a) => [a.label, a.keys ?? []] as const), ...IN_BOXES];
  return (
    <Dialog open wide onClose={onClose} title="All keys of this screen" about="There is no key that sends a round: that is always a button.">
      <dl className="mt-4 gap-x-8 txt-15 sm:columns-2">
        {rows.map(([label, keys]) => (
          <div key={label} className="flex break-inside-avoid justify-between gap-4 border-b border-rule py-1">
            <dt>{label}</dt>
            <dd className="flex shrink-0 flex-wrap items-start justify-end gap-1">
              {keys.map((key) => (
                <Key key={key}>{key}</Key>
              ))}
            </dd>
          </div>
        ))}
      </dl>
      <div className="dialog-foot">
        <Button data-first onClick={onClose}>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
