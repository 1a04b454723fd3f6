import { useCallback, useDeferredValue, useMemo, type Dispatch, type ReactNode, type RefObject } from "react";
import type { ColumnChange, ColumnOut, Desk, Finding, Mend } from "../../api/client.ts";
import { figure } from "../../ui/format.ts";
import type { Blocks } from "../grid/useBlocks.ts";
import type { Journey } from "../grid/hand.ts";
import { Grid } from "../grid/Grid.tsx";
import { GridBar } from "../grid/GridBar.tsx";
import type { Choosing } from "../grid/useChosen.ts";
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
  /** Whether the rows say when their texts leave. */
  planned: boolean;
  search: RefObject<HTMLInputElement | null>;
  onColumn: (name: string, change: ColumnChange) => void;
  onFormula: (column: ColumnOut) => void;
  onMend: (row: number, column: string, typed: string, was: string, seen: number) => void;
  unkept?: ReadonlyMap<number, ReadonlyMap<string, string>>;
  blocks: Blocks;
  choosing: Choosing;
  /** Does something about all rows of a finding; none where nothing can be mended any more. */
  onMendFinding?: (finding: Finding, mend: Mend) => void;
  /** The way to a row that is being added; null at other times. */
  rowComes?: RefObject<Journey | null>;
  children?: ReactNode;
};

const mendLabel = (mend: Mend, rows: number): string =>
  ({ "leave out": `Leave ${rows === 1 ? "this row" : `these ${figure(rows)} rows`} out`, "close up": "Close the spaces up", "plain characters": "Which characters cost", "one link a row": "One link a row" })[mend];

/** The sheet with the bar above it, in which its rows are filtered and found. */
export function SheetPaper({ desk, counts, state, dispatch, stamp, follow = null, following = null, planned, search, choosing, onMendFinding, children, ...on }: Props) {
  const words = useDeferredValue(state.filter.words);
  const onCell = useCallback((row: number, column: string | null) => dispatch({ type: "cell chosen", row, column }), [dispatch]);
  const finding = desk.findings.find((f) => f.check === state.filter.finding);
  const filter = useMemo(() => ({ ...state.filter, words }), [state.filter, words]);
  return (
    <section aria-label="Sheet" data-region="sheet" className="sheet-paper flex min-h-0 flex-col rounded-[3px] border border-rule-strong bg-leaf">
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
      {state.filter.finding && (
        <div className="border-b border-rule px-3 py-1">
          <p className="flex items-baseline gap-3 text-held">
            <span className="min-w-0 flex-1 truncate" title={finding?.sentence}>
              Only these rows: {finding?.sentence ?? "…"}
            </span>
            <button type="button" className="min-h-[24px] shrink-0 text-ink underline underline-offset-3" onClick={() => dispatch({ type: "finding chosen", finding: null })}>
              Show all rows
            </button>
          </p>
          {finding && onMendFinding && (
            <p className="flex flex-wrap items-baseline gap-x-3 text-ink-2">
              <span className="min-w-0 flex-1">{finding.do}</span>
              {finding.mends.map((mend) => (
                <button key={mend} type="button" className="min-h-[24px] shrink-0 font-semibold text-ink underline underline-offset-3" onClick={() => onMendFinding(finding, mend)}>
                  {mendLabel(mend, finding.rows)}
                </button>
              ))}
            </p>
          )}
        </div>
      )}
      {state.filter.wording !== null && (
        <p className="flex items-baseline gap-3 border-b border-rule px-3 py-1 text-ink-2">
          <span className="min-w-0 flex-1 truncate">Only rows that read “{state.filter.wording}”</span>
          <button type="button" className="shrink-0 text-ink underline underline-offset-3" onClick={() => dispatch({ type: "wording chosen", wording: null })}>
            Show all rows
          </button>
        </p>
      )}
      <Grid
        planned={planned}
        desk={desk}
        filter={filter}
        stamp={stamp}
        row={state.row}
        column={state.column}
        follow={follow}
        onCell={onCell}
        chosenRows={choosing.chosen}
        onChosenRows={choosing.choose}
        {...on}
      />
    </section>
  );
}
