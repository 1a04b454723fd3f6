import { useMemo, type Dispatch, type RefObject } from "react";
import type { Action } from "../../ui/actions.tsx";
import { focusRegion } from "../../ui/focus.ts";
import type { DeskAction } from "./state.ts";

/** What can be done about the rows of any desk: going through them, finding and filtering. */
export const useRowActions = (
  rows: number,
  dispatch: Dispatch<DeskAction>,
  search: RefObject<HTMLInputElement | null>,
): Action[] =>
  useMemo(
    () => [
      { name: "sheet", label: "Go to the sheet", keys: ["Alt s"], perform: () => void focusRegion("sheet") },
      { name: "slip", label: "Go to the slip", keys: ["Alt r"], perform: () => void focusRegion("slip") },
      { name: "next-row", label: "Show the row after", keys: ["ArrowDown"], perform: () => dispatch({ type: "row stepped", by: 1, rows }) },
      { name: "previous-row", label: "Show the row before", keys: ["ArrowUp"], perform: () => dispatch({ type: "row stepped", by: -1, rows }) },
      { name: "search", label: "Find in rows", keys: ["Ctrl f"], perform: () => search.current?.focus() },
      { name: "held", label: "Show the held rows", perform: () => dispatch({ type: "mark chosen", mark: "Held" }) },
      { name: "all", label: "Show all rows", perform: () => dispatch({ type: "mark chosen", mark: null }) },
    ],
    [rows, dispatch, search],
  );
