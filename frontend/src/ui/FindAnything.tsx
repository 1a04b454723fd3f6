import { useMemo, useState } from "react";
import { Key } from "./Button.tsx";
import { Dialog } from "./Dialog.tsx";
import { useActions, useAllActions, type Action } from "./actions.tsx";

/** The `/` palette and the `?` page of keys, both read from the actions of the present screen. */
export function FindAnything() {
  const [open, setOpen] = useState<"find" | "keys" | null>(null);
  const own = useMemo<Action[]>(
    () => [
      { name: "find", label: "Find anything", key: "/", perform: () => setOpen("find") },
      { name: "keys", label: "Show the keys of this screen", key: "?", perform: () => setOpen("keys") },
    ],
    [],
  );
  useActions("palette", own);
  return (
    <>
      <button type="button" className="flex items-center gap-3 text-ink-2 hover:text-ink" onClick={() => setOpen("find")}>
        Find anything <Key>/</Key>
      </button>
      {open === "find" && <Palette onClose={() => setOpen(null)} />}
      {open === "keys" && <Keys onClose={() => setOpen(null)} />}
    </>
  );
}

function Palette({ onClose }: { onClose: () => void }) {
  const actions = useAllActions().filter((a) => a.enabled !== false && a.name !== "find");
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const needles = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = actions.filter((a) => needles.every((n) => a.label.toLowerCase().includes(n)));
  const chosen = Math.min(at, found.length - 1);
  const take = (action: Action | undefined) => {
    if (!action) return;
    onClose();
    // The dialog gives the focus back first; what is performed may move it.
    setTimeout(action.perform, 0);
  };
  return (
    <Dialog open onClose={onClose} title="Find anything">
      <input
        autoFocus
        role="combobox"
        aria-expanded="true"
        aria-controls="found"
        aria-activedescendant={found[chosen] ? `found-${found[chosen].name}` : undefined}
        aria-label="A round, or something to do"
        placeholder="A round, or something to do"
        className="mt-4 w-full rounded-[3px] border border-rule-strong bg-leaf px-3 py-2 text-[15px]"
        value={words}
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(chosen + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(chosen - 1, 0));
          else if (e.key === "Enter") take(found[chosen]);
          else return;
          e.preventDefault();
        }}
      />
      <ul id="found" role="listbox" aria-label="Found" className="mt-3 max-h-80 overflow-auto">
        {found.map((action, i) => (
          <li
            key={action.name}
            id={`found-${action.name}`}
            role="option"
            aria-selected={i === chosen}
            className={`flex cursor-pointer items-center justify-between rounded-[3px] px-3 py-1.5 text-[15px] ${i === chosen ? "bg-chosen" : ""}`}
            onMouseEnter={() => setAt(i)}
            onClick={() => take(action)}
          >
            {action.label}
            {action.key && <Key>{action.key}</Key>}
          </li>
        ))}
      </ul>
      {found.length === 0 && <p className="mt-2 text-ink-2">Nothing here is called that.</p>}
    </Dialog>
  );
}

function Keys({ onClose }: { onClose: () => void }) {
  const actions = useAllActions().filter((a) => a.key);
  return (
    <Dialog open onClose={onClose} title="Keys of this screen" about="There is no key that sends: sending is always a button.">
      <dl className="mt-4 grid grid-cols-[1fr_auto] gap-x-6 gap-y-2 text-[15px]">
        {actions.map((a) => (
          <div key={a.name} className="contents">
            <dt>{a.label}</dt>
            <dd>
              <Key>{a.key ?? ""}</Key>
            </dd>
          </div>
        ))}
        <dt>In the wording: insert a field</dt>
        <dd>
          <Key>{"{"}</Key>
        </dd>
      </dl>
    </Dialog>
  );
}
