import { useDeferredValue, useMemo, type Dispatch, type ReactNode, type RefObject } from "react";
import type { ColumnChange, ColumnOut, Desk } from "../../api/client.ts";
import { Grid } from "../grid/Grid.tsx";
import { GridBar } from "../grid/GridBar.tsx";
import type { DeskAction, DeskState } from "./state.ts";

type Props = {
  desk: Desk;
  counts: Desk["counts"];
  state: DeskState;
  dispatch: Dispatch<DeskAction>;
  /** Changes whenever the rows may have changed. */
  stamp: string;
  /** The row that is next while texts go out. */
  follow?: number | null;
  /** Whether it is followed; null where nothing goes out. */
  following?: boolean | null;
  search: RefObject<HTMLInputElement | null>;
  onRow: (row: number) => void;
  onColumn: (name: string, change: ColumnChange) => void;
  onFormula: (column: ColumnOut) => void;
  onMend: (row: number, column: string, typed: string) => void;
  children?: ReactNode;
};

/** The sheet with the bar above it, in which its rows are filtered and found. */
export function SheetPaper({ desk, counts, state, dispatch, stamp, follow = null, following = null, search, children, ...on }: Props) {
  const words = useDeferredValue(state.filter.words);
  const filter = useMemo(() => ({ ...state.filter, words }), [state.filter, words]);
  return (
    <section aria-label="Sheet" className="flex min-h-0 flex-col rounded-[3px] border border-rule-strong bg-leaf">
      <GridBar
        rows={desk.rows}
        counts={counts}
        filter={state.filter}
        search={search}
        onMark={(mark) => dispatch({ type: "mark chosen", mark })}
        onWords={(typed) => dispatch({ type: "words typed", words: typed })}
        following={following}
        onFollowing={(turned) => dispatch({ type: "following turned", on: turned })}
      >
        {children}
      </GridBar>
      <Grid desk={desk} filter={filter} stamp={stamp} row={state.row} follow={follow} {...on} />
    </section>
  );
}
