import { createContext, use, useEffect, useMemo, useState, type ReactNode } from "react";

/** What a person can do: buttons, keys and "Find anything" use the same ones. Nothing that sends has a key. */
export type Action = {
  name: string;
  label: string;
  key?: string;
  enabled?: boolean;
  perform: () => void;
};

type Registry = { actions: Action[]; set: (owner: string, actions: Action[]) => void };

const Context = createContext<Registry>({ actions: [], set: () => undefined });

export function ActionsProvider({ children }: { children: ReactNode }) {
  const [owned, setOwned] = useState<Record<string, Action[]>>({});
  const value = useMemo<Registry>(
    () => ({
      actions: Object.values(owned).flat(),
      set: (owner, actions) => setOwned((all) => ({ ...all, [owner]: actions })),
    }),
    [owned],
  );
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const action = value.actions.find((a) => a.key && a.enabled !== false && isKey(event, a.key));
      if (!action) return;
      event.preventDefault();
      action.perform();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [value]);
  return <Context value={value}>{children}</Context>;
}

function isKey(event: KeyboardEvent, key: string): boolean {
  if (event.defaultPrevented || event.altKey || event.metaKey) return false;
  // In a field, undo is the field's own.
  if (["Ctrl z", "Ctrl y"].includes(key) && isTyping(event.target)) return false;
  if (key.startsWith("Ctrl ")) return event.ctrlKey && event.key.toLowerCase() === key.slice(5).toLowerCase();
  if (event.ctrlKey || isTyping(event.target)) return false;
  return event.key.toLowerCase() === key.toLowerCase();
}

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) || !!target.closest("[role=dialog]"));

export const useAllActions = (): Action[] => use(Context).actions;

/** Offers actions for as long as the component is on the screen. Memoise the list. */
export function useActions(owner: string, actions: Action[]): void {
  const { set } = use(Context);
  useEffect(() => {
    set(owner, actions);
    return () => set(owner, []);
    // `set` only wraps a state setter: following it would run this for every change of any action.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [owner, actions]);
}
