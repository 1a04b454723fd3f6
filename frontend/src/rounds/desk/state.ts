/** What the clerk has on the desk: plain data, one reducer, no framework. */
import type { Finding, Mark } from "../../api/client.ts";

export type Filter = { mark: Mark | null; finding: string | null; wording: string | null; words: string };

export type DeskState = {
  /** The selected row's number, 1 for the first. */
  row: number;
  /** The chosen column, by its name; "" for the first one, null for the mark in front. */
  column: string | null;
  filter: Filter;
  /** Whether the grid and the slip follow the next row while texts go out. */
  following: boolean;
};

export type DeskAction =
  | { type: "row chosen"; row: number }
  | { type: "cell chosen"; row: number; column: string | null }
  | { type: "row found"; row: number }
  | { type: "row followed"; row: number }
  | { type: "row stepped"; by: number; rows: number }
  | { type: "mark chosen"; mark: Mark | null }
  | { type: "finding chosen"; finding: Pick<Finding, "check" | "first" | "column"> | null }
  | { type: "wording chosen"; wording: string | null }
  | { type: "words typed"; words: string }
  | { type: "following turned"; on: boolean };

const ALL: Filter = { mark: null, finding: null, wording: null, words: "" };

export const emptyDesk: DeskState = { row: 1, column: "", filter: ALL, following: true };

export function deskReducer(state: DeskState, action: DeskAction): DeskState {
  switch (action.type) {
    case "row chosen":
      return { ...state, row: action.row, following: false };
    case "cell chosen":
      return { ...state, row: action.row, column: action.column, following: false };
    case "row found":
      // What is looked for is shown, whatever was filtered before.
      return { ...state, row: action.row, filter: ALL, following: false };
    case "row followed":
      return state.following ? { ...state, row: action.row } : state;
    case "row stepped":
      return { ...state, row: Math.min(action.rows, Math.max(1, state.row + action.by)), following: false };
    case "mark chosen":
      return { ...state, filter: { ...state.filter, mark: action.mark, finding: null, wording: null } };
    case "finding chosen": {
      const { finding } = action;
      if (!finding) return { ...state, filter: { ...state.filter, finding: null } };
      const { first: row, column } = finding;
      return { ...state, row, column: column ?? state.column, filter: { ...ALL, finding: finding.check }, following: false };
    }
    case "wording chosen":
      return { ...state, filter: { ...ALL, wording: action.wording } };
    case "words typed":
      return { ...state, filter: { ...state.filter, words: action.words } };
    case "following turned":
      return { ...state, following: action.on };
  }
}
