import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useMemo, useRef, useState, type KeyboardEvent, type RefObject } from "react";
import { sentenceOf, type CellOut, type ColumnChange, type ColumnOut, type Desk, type RowOut } from "../../api/client.ts";
import { clockSeconds, figure, sentenceCase } from "../../ui/format.ts";
import { inkOf, MarkWord } from "../../ui/Mark.tsx";
import type { Filter } from "../desk/state.ts";
import { isComputed } from "../columns.ts";
import { HeadCell } from "./HeadCell.tsx";
import {
  HEAD_HEIGHT,
  leastWidth,
  MARK_WIDTH,
  PART_OF_A_PIXEL,
  pinnedWidth,
  ROW_HEIGHT,
  shownColumns,
  slackOf,
  template,
  type Shown,
} from "./layout.ts";
import { useRows } from "./useRows.ts";

type Props = {
  desk: Desk;
  filter: Filter;
  /** Changes whenever the rows may have changed. */
  stamp: string;
  row: number;
  follow: number | null;
  onRow: (row: number) => void;
  onColumn: (name: string, change: ColumnChange) => void;
  onFormula: (column: ColumnOut) => void;
  onMend: (row: number, column: string, typed: string) => void;
};

/** The sheet with the mark in front; only the rows in sight are fetched and drawn, and a key in the wording draws none. */
export const Grid = memo(function Grid({ desk, filter, stamp, row, follow, onRow, onColumn, onFormula, onMend }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const started = desk.stage !== "preparing";
  const shown = useMemo(() => shownColumns(desk), [desk]);
  const filtered = !!(filter.mark || filter.finding || filter.words);
  const guess = useRef(desk.rows);
  const list = useVirtualizer({
    count: filtered ? guess.current : desk.rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 8,
    // The head stands over the first rows, and stays there.
    scrollMargin: HEAD_HEIGHT,
    scrollPaddingStart: HEAD_HEIGHT,
    scrollPaddingEnd: PART_OF_A_PIXEL,
    initialRect: { width: 800, height: 560 },
  });
  const items = list.getVirtualItems();
  const room = useRoom(scroller);
  const { at, total, failed } = useRows(desk.id, filter, stamp, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  useEffect(() => {
    guess.current = total ?? desk.rows;
  }, [total, desk.rows]);
  const count = total ?? desk.rows;

  const place = filtered ? null : row - 1;
  useEffect(() => {
    if (place !== null) list.scrollToIndex(place, { align: "auto" });
    // Only a newly chosen row scrolls the list; the list itself changes at every draw.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [place]);
  useEffect(() => {
    if (follow !== null && !filtered) list.scrollToIndex(Math.max(0, follow - 1), { align: "center" });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [follow, filtered]);
  useEffect(() => {
    scroller.current?.scrollTo({ top: 0 });
  }, [filter.mark, filter.finding, filter.words]);

  const step = (by: number) => {
    const drawn = items.map((i) => ({ place: i.index, number: at(i.index)?.number }));
    const here = filtered ? (drawn.find((d) => d.number === row)?.place ?? -1) : row - 1;
    const next = Math.min(count - 1, Math.max(0, here + by));
    const number = filtered ? at(next)?.number : next + 1;
    if (number !== undefined) onRow(number);
    list.scrollToIndex(next, { align: "auto" });
  };
  // The cell that the arrows left and right move over, and whether it is being written in.
  const [cell, setCell] = useState(0);
  const [writing, setWriting] = useState(false);
  const here = Math.min(cell, shown.length - 1);
  // A cell chosen is brought into sight once; its row may have to be fetched before there is anything to bring.
  const brought = useRef("");
  useEffect(() => {
    const cell = scroller.current?.querySelector("[data-chosen]");
    if (!cell || brought.current === `${row}/${here}`) return;
    brought.current = `${row}/${here}`;
    cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  });
  const write = (at: number) => {
    const column = shown[at]?.column;
    if (started || !column) return;
    setCell(at);
    if (isComputed(column)) onFormula(column);
    else setWriting(true);
  };
  const done = (typed: string | null) => {
    const column = shown[here]?.column;
    if (typed !== null && column) onMend(row, column.name, typed);
    setWriting(false);
    scroller.current?.focus();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== scroller.current) return;
    if (event.key === "ArrowLeft" || event.key === "ArrowRight") {
      event.preventDefault();
      setCell(Math.min(shown.length - 1, Math.max(0, here + (event.key === "ArrowRight" ? 1 : -1))));
      return;
    }
    if ((event.key === "Enter" || event.key === "F2") && !started) {
      event.preventDefault();
      write(here);
      return;
    }
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -count, End: count };
    const by = steps[event.key];
    if (by === undefined) return;
    event.preventDefault();
    step(by);
  };
  const slack = slackOf(shown, started, room);
  const columns = template(shown, started, slack);
  const chosen = items.map((item) => at(item.index)).find((found) => found?.number === row);
  const over = shown[here];
  return (
    <>
      <div
        ref={scroller}
        role="grid"
        aria-label="Rows"
        aria-rowcount={count + 1}
        aria-activedescendant={`row-${row}`}
        tabIndex={0}
        className="relative min-h-0 flex-1 snap-x snap-mandatory overflow-auto outline-offset-0"
        style={{ scrollPadding: `${HEAD_HEIGHT}px ${pinnedWidth(shown)}px ${PART_OF_A_PIXEL}px ${MARK_WIDTH}px` }}
        onKeyDown={onKeyDown}
        onScroll={(e) => e.currentTarget.toggleAttribute("data-moved", e.currentTarget.scrollLeft > 0)}
      >
        <div style={{ minWidth: leastWidth(shown, started) + slack }}>
          <div
            role="row"
            className="sticky top-0 z-10 grid border-b border-rule-strong bg-leaf"
            style={{ gridTemplateColumns: columns }}
          >
            <div role="columnheader" className="mark-edge flex flex-col px-2 py-1">
              <span className="text-[12px] leading-4 text-pencil">mark</span>
              <span className="font-semibold">Row</span>
            </div>
            {shown.map((s) => (
              <div
                key={s.column.name}
                role="columnheader"
                className={`flex min-w-0 snap-start flex-col ${groundOf(s)} ${s.edge ? "pl-2" : ""}`}
                style={s.pinned === null ? undefined : { right: s.pinned }}
              >
                <HeadCell
                  column={s.column}
                  locked={started}
                  onChange={onColumn}
                  onFormula={onFormula}
                />
              </div>
            ))}
            {started && (
              <div role="columnheader" className="flex flex-col justify-end px-2 py-1 font-semibold">
                What happened
              </div>
            )}
          </div>
          <div role="rowgroup" className="relative" style={{ height: count * ROW_HEIGHT }}>
            {items
              .filter((item) => item.index < count)
              .map((item) => {
                const found = at(item.index);
                return (
                  <div
                    key={item.index}
                    id={found ? `row-${found.number}` : undefined}
                    role="row"
                    aria-rowindex={item.index + 2}
                    aria-selected={found?.number === row}
                    className="rows-ground absolute inset-x-0 grid cursor-pointer border-b border-rule bg-(--ground)"
                    style={{ transform: `translateY(${item.start - HEAD_HEIGHT}px)`, height: ROW_HEIGHT, gridTemplateColumns: columns }}
                    onClick={() => found && onRow(found.number)}
                  >
                    {found ? (
                      <Cells
                        found={found}
                        shown={shown}
                        started={started}
                        chosen={found.number === row && !started ? here : null}
                        writing={writing && found.number === row}
                        onCell={(at, twice) => {
                          setCell(at);
                          if (twice && found.number === row) write(at);
                        }}
                        onDone={done}
                      />
                    ) : <span className="mark-edge" />}
                  </div>
                );
              })}
          </div>
        </div>
        {count === 0 && <p className="p-6 text-[15px] text-ink-2">No row fits. Press All, or empty the search.</p>}
        {failed && (
          <p role="alert" className="sticky left-0 p-4 text-failed">
            {sentenceOf(failed)}
          </p>
        )}
      </div>
      {!started && count > 0 && over && <CellLine row={row} column={over.column} cell={chosen?.cells[over.at]} />}
    </>
  );
});

/** The chosen cell in a line: how it came about, what is wrong with it, and what stood in the file; dots while it is not drawn. */
function CellLine({ row, column, cell }: { row: number; column: ColumnOut; cell: CellOut | undefined }) {
  return (
    <p data-testid="chosen-cell" aria-live="polite" className="flex gap-2 border-t border-rule-strong px-3 py-1.5">
      <span className="shrink-0 text-ink-2">
        {column.name}, row {figure(row)}
      </span>
      <span className={`min-w-0 flex-1 truncate ${cell?.trouble ? "text-held" : ""}`} title={titleOf(cell)}>
        {cell ? titleOf(cell) || "blank" : "…"}
      </span>
      <span className="shrink-0 text-pencil">{isComputed(column) ? "Enter: its formula" : "Enter: change it"}</span>
    </p>
  );
}

/** The width there is for columns, in px, without the scroll bar. */
function useRoom(scroller: RefObject<HTMLDivElement | null>): number {
  const [room, setRoom] = useState(Infinity);
  useEffect(() => {
    if (!scroller.current) return;
    const observer = new ResizeObserver(([entry]) => entry && setRoom(entry.contentRect.width));
    observer.observe(scroller.current);
    return () => observer.disconnect();
  }, [scroller]);
  return room;
}

const mended = (cell: CellOut | undefined): boolean => cell?.original !== null && cell?.original !== undefined;

/** A pinned column stays in sight; the others fade as they go under the first of them. */
const groundOf = ({ column, pinned, edge }: Shown): string =>
  edge ? "sticky pinned-edge" : `${pinned === null ? "relative" : "sticky"} ${isComputed(column) ? "bg-computed" : ""}`;

type CellsProps = {
  found: RowOut;
  shown: Shown[];
  started: boolean;
  /** The place of the chosen cell; null when none of this row is. */
  chosen: number | null;
  writing: boolean;
  onCell: (at: number, twice: boolean) => void;
  onDone: (typed: string | null) => void;
};

/** What a cell says when the mouse rests on it: what is wrong, how it came about, what stood there. */
function titleOf(cell: CellOut | undefined): string | undefined {
  if (!cell) return undefined;
  const before = cell.original === null || cell.original === undefined ? "" : `was: ${cell.original || "blank"}`;
  const told = cell.trouble ?? cell.explained ?? (cell.typed ? `in the file: ${cell.typed}` : cell.shown);
  return [told, before].filter(Boolean).join(" · ");
}

/** A cell being written in. Enter keeps it, Escape leaves it as it was. */
function WrittenIn({ text, onDone }: { text: string; onDone: (typed: string | null) => void }) {
  const [typed, setTyped] = useState(text);
  // Leaving the field takes it away, which is leaving it once more.
  const over = useRef(false);
  const finish = (kept: string | null) => {
    if (over.current) return;
    over.current = true;
    onDone(kept === text ? null : kept);
  };
  return (
    <input
      autoFocus
      aria-label="Content of the cell"
      value={typed}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={() => finish(typed)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter" || e.key === "Tab") finish(typed);
        if (e.key === "Escape") finish(null);
      }}
      className="absolute inset-0 z-10 w-full min-w-32 bg-leaf px-2 outline-2 outline-sent"
    />
  );
}

const Cells = memo(function Cells({ found, shown, started, chosen, writing, onCell, onDone }: CellsProps) {
  // Once texts go out, ink is for what has gone; what is still planned, or stays behind, is in pencil.
  const planned = started && ["To go", "Held", "Left out"].includes(found.mark);
  return (
    <>
      <div role="gridcell" className="mark-edge flex items-center gap-1.5 px-2" title={found.reason}>
        <span className="min-w-10 shrink-0 text-right text-pencil">{figure(found.number)}</span>
        <MarkWord mark={found.mark}>{found.at ? `${found.mark} ${clockSeconds(found.at)}` : found.mark}</MarkWord>
      </div>
      {shown.map((s, place) => {
        const { column, at, pinned } = s;
        const cell = found.cells[at];
        return (
          <div
            key={column.name}
            role="gridcell"
            data-chosen={chosen === place || undefined}
            title={titleOf(cell)}
            onClick={(e) => onCell(place, e.detail > 1)}
            style={pinned === null ? undefined : { right: pinned }}
            className={`${groundOf(s)} ${s.edge ? "pr-2 pl-4" : "px-2"} ${chosen === place ? "shadow-[inset_0_0_0_1px_#6f6957]" : ""} ${chosen === place && writing ? "" : "truncate"} leading-[29px] ${column.to_the_right ? "text-right" : ""} ${column.role === "money" ? "font-semibold" : ""} ${cell?.trouble ? "text-held" : planned ? "text-pencil" : ""}`}
          >
            {mended(cell) && <span aria-hidden className="absolute top-0 left-0 border-4 border-transparent border-t-sent border-l-sent" />}
            {chosen === place && writing && <WrittenIn text={cell?.typed ?? cell?.shown ?? ""} onDone={onDone} />}
            {cell?.shown || (cell?.trouble && isComputed(column) && <span>no value</span>) || <span className={cell?.trouble ? "" : "text-pencil"}>–</span>}
          </div>
        );
      })}
      {started && (
        <div role="gridcell" title={found.reason} className={`truncate px-2 leading-[29px] ${inkOf(found.mark)}`}>
          {sentenceCase(found.reason) || (found.mark === "Going" ? "Handing over…" : found.mark === "Sent" ? "Accepted by the carrier" : "")}
        </div>
      )}
    </>
  );
});
