/** What the clerk has on the desk: plain data, one reducer, no framework. */
import type { Mark } from "../../api/client.ts";

export type Filter = { mark: Mark | null; finding: string | null; words: string };

export type DeskState = {
  /** The selected row's number, 1 for the first. */
  row: number;
  filter: Filter;
  /** Whether the grid and the slip follow the next row while texts go out. */
  following: boolean;
};

export type DeskAction =
  | { type: "row chosen"; row: number }
  | { type: "row followed"; row: number }
  | { type: "row stepped"; by: number; rows: number }
  | { type: "mark chosen"; mark: Mark | null }
  | { type: "finding chosen"; finding: string | null }
  | { type: "words typed"; words: string }
  | { type: "following turned"; on: boolean };

export const emptyDesk: DeskState = {
  row: 1,
  filter: { mark: null, finding: null, words: "" },
  following: true,
};

export function deskReducer(state: DeskState, action: DeskAction): DeskState {
  switch (action.type) {
    case "row chosen":
      return { ...state, row: action.row, following: false };
    case "row followed":
      return state.following ? { ...state, row: action.row } : state;
    case "row stepped":
      return { ...state, row: Math.min(action.rows, Math.max(1, state.row + action.by)), following: false };
    case "mark chosen":
      return { ...state, filter: { ...state.filter, mark: action.mark, finding: null } };
    case "finding chosen":
      return { ...state, filter: { ...state.filter, finding: action.finding, mark: null } };
    case "words typed":
      return { ...state, filter: { ...state.filter, words: action.words } };
    case "following turned":
      return { ...state, following: action.on };
  }
}
