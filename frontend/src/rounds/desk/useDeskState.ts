import { useEffect, useReducer, type Dispatch } from "react";
import type { Desk } from "../../api/client.ts";
import { cellLeft } from "../grid/useWriting.ts";
import { keep, keptOf } from "../../ui/kept.ts";
import { deskReducer, emptyDesk, type DeskAction, type DeskState } from "./state.ts";

/** What the clerk has on the desk; it survives Back and a reload, as far as the round still has it. */
export function useDeskState(desk: Desk): [DeskState, Dispatch<DeskAction>] {
  // What was filtered while a round was prepared means nothing once it is sent.
  const key = `${desk.stage === "preparing" ? "desk" : "sending"}/${desk.id}`;
  const [state, dispatch] = useReducer(deskReducer, undefined, () => {
    const left = desk.stage === "preparing" ? cellLeft(desk.uid) : null;
    // Where somebody was writing when the window was closed, the hand is again.
    const kept = left && desk.columns.some(({ name }) => name === left.column) ? { ...emptyDesk, row: left.row, column: left.column } : keptOf(key, emptyDesk);
    return { ...emptyDesk, ...kept, row: Math.max(1, Math.min(desk.rows, kept.row)) };
  });
  useEffect(() => keep(key, state), [key, state]);
  return [state, dispatch];
}
