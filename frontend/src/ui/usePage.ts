import { useEffect, useMemo } from "react";
import { useActions, type Action } from "./actions.tsx";
import { focusSoon } from "./focus.ts";

/** A page that is looked at and left again: the hand is in it from the start, and Escape goes back to where it came from. */
export function usePage(label: string, back: () => void): void {
  useEffect(() => focusSoon("page"), []);
  const actions = useMemo<Action[]>(() => [{ name: "back", label, keys: ["Escape"], perform: back }], [label, back]);
  useActions("page", actions);
}
