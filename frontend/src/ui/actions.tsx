import { createContext, use, useCallback, useLayoutEffect, useMemo, useState, type ReactNode } from "react";

/** What a person can do: buttons, keys and "Find anything" use the same ones. Nothing that sends has a key. */
export type Action = {
  name: string;
  label: string;
  /** Such as "Ctrl k", "Alt s", "F6" or "?"; the first one is shown. A key alone works only outside the sheet and boxes. */
  keys?: string[];
  enabled?: boolean;
  perform: () => void;
};

/** Finds things that are not actions of their own, such as rows, by some words. */
export type Finder = (words: string, signal: AbortSignal) => Promise<Action[]>;

type Owned = { actions: Action[]; finder?: Finder | undefined };
type Registry = { actions: Action[]; finders: Finder[] };
type Set = (owner: string, owned: Owned) => void;

// Who offers actions is not drawn anew when others offer some.
const Offered = createContext<Registry>({ actions: [], finders: [] });
const Offering = createContext<Set>(() => undefined);

export function ActionsProvider({ children }: { children: ReactNode }) {
  const [owned, setOwned] = useState<Record<string, Owned>>({});
  const value = useMemo<Registry>(
    () => ({
      actions: Object.values(owned).flatMap((o) => o.actions),
      finders: Object.values(owned).flatMap((o) => o.finder ?? []),
    }),
    [owned],
  );
  const set = useCallback<Set>((owner, mine) => setOwned((all) => ({ ...all, [owner]: mine })), []);
  // Before anything is seen: who sees a part of the screen may press its keys.
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const action = value.actions.find((a) => a.keys?.some((key) => isKey(event, key)));
      if (!action) return;
      // A key of ours is never the browser's, though there be nothing to do.
      event.preventDefault();
      event.stopPropagation();
      if (action.enabled !== false) action.perform();
    };
    // Before the box that has the focus: its own keys are others.
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, [value]);
  return (
    <Offering value={set}>
      <Offered value={value}>{children}</Offered>
    </Offering>
  );
}

const OVER = "[role=dialog], [role=alertdialog], [role=menu]";
const OWN_KEYS = `input, textarea, select, [contenteditable=true], [role=grid], [role=listbox], [role=separator], ${OVER}`;

/** Whether an event is a key of ours where it came from. */
export function isKey(event: KeyboardEvent, key: string): boolean {
  const parts = key.split(" ");
  const letter = parts.pop() ?? "";
  const pressed = event.key === " " ? "Space" : event.key;
  const [ctrl, alt, shift] = ["Ctrl", "Alt", "Shift"].map((name) => parts.includes(name));
  // The command key of one maker's keyboards stands for Ctrl.
  if ((event.ctrlKey || event.metaKey) !== ctrl || event.altKey !== alt) return false;
  const from = event.target instanceof Element ? event.target : document.body;
  // A button that has the focus is pressed by the space bar, unless it is a line of a list.
  if (letter === "Space" && (event.repeat || from.closest(`${OWN_KEYS}, button:not([data-line]), a`))) return false;
  if (letter.length === 1 && !ctrl && !alt) return event.key === letter && !from.closest(OWN_KEYS);
  if (event.shiftKey !== shift || from.closest(OVER)) return false;
  // In a box of its own, undo is the box's.
  if (ctrl && "zy".includes(letter) && from.closest("input, textarea, [contenteditable=true]")) return false;
  if (letter.startsWith("Arrow") && from !== document.body) return false;
  // Some keyboards write another sign with Alt: then the place of the key counts.
  const plain = /^[a-z0-9/?]$/i.test(event.key) ? event.key : event.code.replace(/^Key/, "");
  return (letter.length === 1 ? plain : pressed).toLowerCase() === letter.toLowerCase();
}

export const useAllActions = (): Action[] => use(Offered).actions;

export const useFinders = (): Finder[] => use(Offered).finders;

/** Offers actions, and what finds further ones, for as long as the component is on the screen. Memoise both. */
export function useActions(owner: string, actions: Action[], finder?: Finder): void {
  const set = use(Offering);
  useLayoutEffect(() => {
    set(owner, { actions, finder });
    return () => set(owner, { actions: [] });
  }, [set, owner, actions, finder]);
}
