import { useVirtualizer, defaultRangeExtractor, type Range } from "@tanstack/react-virtual";
import { memo, useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent, type RefObject } from "react";
import { flushSync } from "react-dom";
import { sentenceOf, type ColumnChange, type ColumnOut, type Desk, type RowOut } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import type { Filter } from "../desk/state.ts";
import { isComputed } from "../columns.ts";
import { CellLine } from "./CellLine.tsx";
import { ChosenLine } from "./ChosenLine.tsx";
import { cellId, Cells, groundOf } from "./Cells.tsx";
import { chosenIn, isOneCell, MARK, moved, onMarks, type Hand, type Journey, type Key, type Spot } from "./hand.ts";
import { HeadCell } from "./HeadCell.tsx";
import { HEAD_HEIGHT, leastWidth, markWidth, PART_OF_A_PIXEL, pinnedWidth, ROW_HEIGHT, shownColumns, slackOf, template } from "./layout.ts";
import { useBlocks, type Blocks } from "./useBlocks.ts";
import type { Chosen } from "./useChosen.ts";
import { useMeant } from "./useMeant.ts";
import { useRows } from "./useRows.ts";
import { useWidths } from "./widths.ts";
import { useWriting, type Bound } from "./useWriting.ts";

type Props = {
  desk: Desk;
  filter: Filter;
  /** Changes whenever the rows may have changed. */
  stamp: string;
  row: number;
  /** Whether the rows say when their texts leave. */
  planned: boolean;
  /** The chosen column's name; "" for the first one, null for the mark. */
  column: string | null;
  follow: number | null;
  onCell: (row: number, column: string | null) => void;
  onColumn: (name: string, change: ColumnChange) => void;
  onFormula: (column: ColumnOut) => void;
  onMend: (row: number, column: string, typed: string, was: string, seen: number) => void;
  blocks: Blocks;
  /** The rows that are chosen for sending. */
  chosenRows: Chosen;
  onChosenRows: (rows: Chosen) => void;
  /** The way to a row that is being added; null at other times. */
  rowComes?: RefObject<Journey | null>;
  /** What was written in cells and is not kept yet, by row and column. */
  unkept?: ReadonlyMap<number, ReadonlyMap<string, string>>;
};

const WIDER = 24;

/** The sheet with the mark in front; only the rows in sight are fetched and drawn, and a key in the wording draws none. */
export const Grid = memo(function Grid({ desk, filter, stamp, row, column, follow, onCell, onColumn, onFormula, onMend, blocks, chosenRows, onChosenRows, rowComes, planned, unkept }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const started = desk.stage !== "preparing";
  const [widths, setWidth] = useWidths();
  const room = useRoom(scroller);
  const shown = useMemo(() => shownColumns(desk, widths, room, planned), [desk, widths, room, planned]);
  const filtered = !!(filter.mark || filter.finding || filter.wording !== null || filter.words);
  const listed = `${filter.mark}/${filter.finding}/${filter.wording}/${filter.words}`;
  const guess = useRef(desk.rows);
  const kept = useRef(0);
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
    // The row that the hand is in stays drawn: it may be written in.
    rangeExtractor: (range: Range) => {
      const near = defaultRangeExtractor(range);
      const here = kept.current;
      return near.includes(here) || here >= range.count ? near : [...near, here].sort((a, b) => a - b);
    },
  });
  const items = list.getVirtualItems();
  const inSight = items.filter((item) => item.index >= (list.range?.startIndex ?? 0) - 8 && item.index <= (list.range?.endIndex ?? 0) + 8);
  const { at, total, between, numbers, failed } = useRows(desk.id, filter, stamp, inSight[0]?.index ?? 0, inSight.at(-1)?.index ?? 0, planned);
  useEffect(() => {
    guess.current = total ?? desk.rows;
  }, [total, desk.rows]);
  const count = total ?? desk.rows;

  // Where a chosen row stands in a filtered list is known once it is fetched; a row that left the list leaves its place.
  const place = useRef({ listed, place: -1 });
  if (place.current.listed !== listed) place.current = { listed, place: -1 };
  const seenAt = filtered ? (items.find((item) => at(item.index)?.number === row)?.index ?? null) : row - 1;
  if (seenAt !== null) place.current.place = seenAt;
  const inList = seenAt !== null;
  // A row that was mended out of the list has no place in it, and what is at its place is another row.
  const astray = filtered && !inList && items.every((item) => item.index >= count || at(item.index));
  const index = column === null ? MARK : Math.max(0, shown.findIndex((s) => s.column.name === column));
  const [from, setFrom] = useState<{ listed: string; spot: Spot } | null>(null);
  const spot: Spot = { place: place.current.place, column: index };
  const hand: Hand = { at: spot, from: from?.listed === listed && inList ? from.spot : spot };
  kept.current = Math.max(0, spot.place);
  const size = { rows: count, columns: shown.length, page: Math.max(1, Math.floor(((scroller.current?.clientHeight ?? 0) - HEAD_HEIGHT) / ROW_HEIGHT) - 1) };
  const nameOf = (at: number): string | null => (at === MARK ? null : (shown[at]?.column.name ?? ""));

  const [refused, setRefused] = useState("");
  /** What was chosen before the rows that are being chosen now, over the marks. */
  const chosenBefore = useRef<Chosen | null>(null);
  const choosing = useRef(0);
  const chooseRows = (to: Hand) => {
    const mine = ++choosing.current;
    if (isOneCell(to) || !onMarks(to)) {
      chosenBefore.current = null;
      return;
    }
    const before = (chosenBefore.current ??= chosenRows);
    const { top, bottom } = chosenIn(to);
    const come = (rows: number[]) => mine === choosing.current && onChosenRows(new Set([...before, ...rows]));
    if (filtered) void numbers().then((all) => come(all.slice(top, bottom + 1)), () => undefined);
    else come(Array.from({ length: bottom - top + 1 }, (_, i) => top + i + 1));
  };
  const turn = (number: number) => {
    const now = new Set(chosenRows);
    if (!now.delete(number)) now.add(number);
    onChosenRows(now);
  };
  const chooseAll = useCallback(
    () => void numbers().then((all) => onChosenRows(new Set([...chosenRows, ...all])), () => undefined),
    [numbers, onChosenRows, chosenRows],
  );
  const latest = useRef(0);
  const goingTo = useRef<Bound | null>(null);
  const go = (to: Hand): Journey => {
    const mine = ++latest.current;
    setRefused("");
    forget();
    setFrom(isOneCell(to) || !inList ? null : { listed, spot: to.from });
    chooseRows(inList ? to : { at: to.at, from: to.at });
    place.current.place = to.at.place;
    list.scrollToIndex(to.at.place, { align: "auto" });
    const number = filtered ? at(to.at.place)?.number : to.at.place + 1;
    const name = nameOf(to.at.column);
    const journey: Journey = { row: number ?? null };
    goingTo.current = number === undefined ? { journey, column: to.at.column } : null;
    if (number !== undefined) {
      onCell(number, name);
      return journey;
    }
    const arrived = (found: RowOut | undefined) => {
      if (latest.current !== mine) return;
      goingTo.current = null;
      journey.row = found?.number ?? null;
      // Where nothing comes of it, nothing waits for it any more.
      if (!found || (found.number === row && to.at.column === index)) forget();
      // Drawn before the next key can come, which would meet the row before.
      else flushSync(() => onCell(found.number, name));
    };
    between(to.at.place, to.at.place).then(([found]) => arrived(found), () => arrived(undefined));
    return journey;
  };

  const scrolledTo = filtered ? null : row - 1;
  useEffect(() => {
    if (scrolledTo !== null) list.scrollToIndex(scrolledTo, { align: "auto" });
    // Only a newly chosen row scrolls the list; the list itself changes at every draw.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [scrolledTo]);
  useEffect(() => {
    if (follow !== null && !filtered) list.scrollToIndex(Math.max(0, follow - 1), { align: "center" });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [follow, filtered]);
  useEffect(() => {
    scroller.current?.scrollTo({ top: 0 });
  }, [filter.mark, filter.finding, filter.wording, filter.words]);
  // A cell chosen is brought into sight once; its row may have to be fetched before there is anything to bring.
  const brought = useRef("");
  useEffect(() => {
    const cell = scroller.current?.querySelector("[data-chosen]");
    if (!cell || brought.current === `${row}/${index}`) return;
    brought.current = `${row}/${index}`;
    cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  });

  const over = index === MARK ? null : (shown[index] ?? null);
  const here = inList ? at(spot.place) : undefined;
  const cell = over ? here?.cells[over.at] : undefined;
  const whyNot = (): string => {
    if (astray) return "No row of this list is chosen. Move to one with the arrows.";
    if (started && here?.locked) return `Row ${row} was handed over: nothing of it can be changed any more.`;
    if (!over) return `A mark follows from the row and its checks.${started ? "" : " Alt X leaves the row out, or takes it back."}`;
    if (isComputed(over.column)) return `${over.column.name} is worked out, so nothing is typed over it.${started ? "" : " Enter opens what it is worked out by."}`;
    return "";
  };
  const boundFor = (): Bound | null => goingTo.current ?? (rowComes?.current ? { journey: rowComes.current, column: index } : null);
  const onTheWay = (): boolean => boundFor() !== null || (!inList && !astray);
  const { writing, write, onWritten, onTyped, ahead, forget } = useWriting({
    uid: desk.uid,
    version: desk.version,
    unkept: over ? unkept?.get(row)?.get(over.column.name) : undefined,
    row,
    spot,
    here: !!here,
    boundFor,
    column: over?.column ?? null,
    cell,
    size,
    whyNot,
    setRefused,
    onFormula: started ? null : onFormula,
    onMend,
    go,
    focus: () => scroller.current?.focus(),
    hasFocus: () => document.activeElement === scroller.current,
  });

  const chosen = chosenIn(inList ? hand : { at: { ...spot, place: -1 }, from: { ...spot, place: -1 } });
  const range = { ...chosen, left: Math.max(0, chosen.left), right: Math.max(0, chosen.right) };
  const { empty, fill, copy, paste } = useBlocks({ shown, range, filtered, count, at, between, blocks, setRefused, whyNot, onTheWay, locked: astray });
  const { meant, onFocused } = useMeant(!!here);
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== scroller.current || event.altKey) {
      // A letter that a keyboard writes with both of these is a letter.
      if (event.target !== scroller.current || !event.getModifierState("AltGraph")) return;
    }
    const ctrl = (event.ctrlKey || event.metaKey) && !event.getModifierState("AltGraph");
    const key: Key = { key: event.key, ctrlKey: ctrl, shiftKey: event.shiftKey };
    const to = moved(hand, key, size);
    const letter = event.key.length === 1 || ["Dead", "Process", "Unidentified"].includes(event.key);
    if (letter && !ctrl && event.key !== " " && !meant()) setRefused("What you typed began before the hand was here, and is written nowhere.");
    else if (index === MARK && event.key === " " && here) turn(row);
    else if (ahead(key)) setRefused("");
    else if (to) go(to);
    else if (event.key === "Enter" || event.key === "F2") {
      setFrom(null);
      write("change");
    }
    else if (event.key === "Escape") {
      setFrom(null);
      setRefused("");
    } else if (event.key === "Delete" || event.key === "Backspace") empty();
    else if (event.key.toLowerCase() === "d" && ctrl) fill();
    else {
      // The letter itself goes into the field, which has the focus before the browser writes it.
      if (letter && !ctrl) {
        setFrom(null);
        flushSync(() => write("over"));
      }
      return;
    }
    event.preventDefault();
  };

  const spotOf = (event: MouseEvent): { number: number; spot: Spot } | null => {
    if (!(event.target instanceof Element) || event.target.closest("input")) return null;
    const mine = event.target.closest<HTMLElement>("[data-row]");
    const pressed = event.target.closest<HTMLElement>("[data-column]");
    if (!mine) return null;
    return {
      number: Number(mine.dataset["row"]),
      spot: { place: Number(mine.dataset["place"]), column: pressed ? Number(pressed.dataset["column"]) : index },
    };
  };
  const press = (event: MouseEvent) => {
    const found = event.button === 0 ? spotOf(event) : null;
    if (!found) return;
    if (event.ctrlKey || event.metaKey) {
      const mark = { place: found.spot.place, column: MARK };
      go({ at: mark, from: mark });
      turn(found.number);
    } else go({ at: found.spot, from: event.shiftKey ? hand.from : found.spot });
  };
  const drag = (event: MouseEvent) => {
    const found = event.buttons === 1 && !writing ? spotOf(event) : null;
    if (found && (found.spot.place !== spot.place || found.spot.column !== index) && inList) go({ at: found.spot, from: hand.from });
  };

  const choosingRows = useMemo<Action[]>(
    () => [
      { name: "choose-shown", label: "Choose all rows shown, for sending", perform: chooseAll },
      { name: "choose-none", label: "Choose no rows for sending", enabled: chosenRows.size > 0, perform: () => onChosenRows(new Set()) },
    ],
    [chooseAll, chosenRows, onChosenRows],
  );
  useActions("rows for sending", choosingRows);
  const actions = useMemo<Action[]>(() => {
    if (!over) return [];
    const { name } = over.column;
    const wide = () => scroller.current?.querySelector<HTMLElement>(`[data-head="${index}"]`)?.offsetWidth ?? over.width;
    const head = () => scroller.current?.querySelector<HTMLButtonElement>(`[data-head="${index}"] button`);
    return [
      {
        name: "column",
        label: `Open the column ${name}: what it is for, its format or its formula`,
        keys: ["Alt h"],
        enabled: !started,
        perform: () => {
          head()?.focus();
          head()?.click();
        },
      },
      { name: "wider", label: `Make the column ${name} wider`, perform: () => setWidth(name, wide() + WIDER) },
      { name: "narrower", label: `Make the column ${name} narrower`, perform: () => setWidth(name, wide() - WIDER) },
      { name: "fitting", label: `Make the column ${name} as wide as usual`, perform: () => setWidth(name, null) },
    ];
  }, [over, index, started, setWidth]);
  useActions("grid", actions);

  const slack = slackOf(shown, started, room, planned);
  const columns = template(shown, started, slack, planned);
  const cells = isOneCell(hand) || onMarks(hand) ? 1 : (range.bottom - range.top + 1) * (range.right - range.left + 1);
  return (
    <>
      <p id="grid-keys" className="sr-only">
        Tab goes from cell to cell; F6 goes on to the next part of the screen. On the mark of a row, Space chooses the row for sending, and
        Shift with the arrows several of them.
      </p>
      <div
        ref={scroller}
        role="grid"
        aria-label="Rows"
        aria-describedby="grid-keys"
        aria-rowcount={count + 1}
        aria-colcount={shown.length + 1}
        aria-multiselectable="true"
        aria-activedescendant={here ? cellId(row, index) : undefined}
        tabIndex={0}
        data-first
        className="grid-rows relative min-h-0 flex-1 snap-x snap-mandatory overflow-auto outline-offset-0 select-none"
        style={{
          scrollPadding: `${HEAD_HEIGHT}px ${pinnedWidth(shown)}px ${PART_OF_A_PIXEL}px ${markWidth(started || planned)}px`,
          ["--row" as string]: `${ROW_HEIGHT}px`,
        }}
        onFocus={(e) => {
          if (e.target === scroller.current) onFocused();
        }}
        onKeyDown={onKeyDown}
        onCopy={(e) => copy(e, scroller.current, false)}
        onCut={(e) => copy(e, scroller.current, true)}
        onPaste={(e) => paste(e, scroller.current)}
        onMouseDown={press}
        onMouseOver={drag}
        onDoubleClick={(e) => spotOf(e) && write("change")}
        onScroll={({ currentTarget: it }) => {
          it.toggleAttribute("data-moved", it.scrollLeft > 0);
          it.toggleAttribute("data-end", it.scrollLeft + it.clientWidth >= it.scrollWidth - 1);
        }}
        // What goes on behind the edge fades, so that no figure seems to end where it is cut.
        data-more={pinnedWidth(shown) === 0 && leastWidth(shown, started, planned) + slack > room ? "" : undefined}
      >
        <div style={{ minWidth: leastWidth(shown, started, planned) + slack }}>
          <div
            role="row"
            className="grid-head sticky top-0 z-10 grid border-b border-rule-strong bg-leaf"
            style={{ gridTemplateColumns: columns }}
          >
            <div role="columnheader" className="mark-edge flex flex-col px-2 py-1">
              <span className="txt-12 leading-4 text-pencil">mark</span>
              <span className="font-semibold">Row</span>
            </div>
            {shown.map((s, place) => (
              <div
                key={s.column.name}
                role="columnheader"
                data-head={place}
                className={`flex min-w-0 snap-start flex-col ${groundOf(s)} ${s.edge ? "pl-2" : ""}`}
                style={s.pinned === null ? undefined : { right: s.pinned }}
              >
                <HeadCell column={s.column} locked={started} onChange={onColumn} onFormula={onFormula} />
                <Edge onWidth={(width) => setWidth(s.column.name, width)} />
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
                const mine = found?.number === row;
                const among = inList && !isOneCell(hand) && !onMarks(hand) && item.index >= range.top && item.index <= range.bottom;
                return (
                  <div
                    key={found ? `row ${found.number}` : `place ${item.index}`}
                    data-row={found?.number}
                    data-place={item.index}
                    role="row"
                    aria-rowindex={item.index + 2}
                    aria-selected={mine}
                    data-goes={(found && chosenRows.has(found.number)) || undefined}
                    className="rows-ground absolute inset-x-0 grid cursor-pointer border-b border-rule bg-(--ground)"
                    style={{ transform: `translateY(${item.start - HEAD_HEIGHT}px)`, height: ROW_HEIGHT, gridTemplateColumns: columns }}
                  >
                    {found ? (
                      <Cells
                        found={found}
                        shown={shown}
                        started={started}
                        chosen={mine ? index : null}
                        goes={chosenRows.has(found.number)}
                        left={among ? range.left : null}
                        right={among ? range.right : null}
                        writing={mine && writing?.row === row ? writing : null}
                        unkept={unkept?.get(found.number) ?? null}
                        onTyped={onTyped}
                        onWritten={onWritten}
                      />
                    ) : (
                      <span role="gridcell" className="mark-edge" />
                    )}
                  </div>
                );
              })}
          </div>
        </div>
        {count === 0 && <p className="p-6 txt-15 text-ink-2">No row fits. Press All, or empty the search.</p>}
        {failed && (
          <p role="alert" className="sticky left-0 p-4 text-failed">
            {sentenceOf(failed)}
          </p>
        )}
      </div>
      {chosenRows.size > 0 && (
        <ChosenLine chosen={chosenRows.size} shown={count} onAll={chooseAll} onNone={() => onChosenRows(new Set())} />
      )}
      {count > 0 && (
        <CellLine row={row} column={over?.column ?? null} found={here} cell={cell} chosen={cells} refused={refused} onFormula={started ? null : onFormula} />
      )}
    </>
  );
});

/** The edge of a column's head: dragged, it makes the column wider or narrower; pressed twice, as wide as usual. */
function Edge({ onWidth }: { onWidth: (width: number | null) => void }) {
  const begun = useRef<{ x: number; width: number } | null>(null);
  return (
    <span
      aria-hidden
      className="column-edge absolute inset-y-0 -right-1 z-20 w-2.5 cursor-col-resize touch-none"
      title="Drag to change the width; press twice for the usual one"
      onPointerDown={(e) => {
        e.preventDefault();
        e.currentTarget.setPointerCapture(e.pointerId);
        // A column may be wider than its own width, where there is room.
        begun.current = { x: e.clientX, width: e.currentTarget.parentElement?.offsetWidth ?? 0 };
      }}
      onPointerMove={(e) => begun.current && onWidth(begun.current.width + e.clientX - begun.current.x)}
      onPointerUp={() => {
        begun.current = null;
      }}
      onDoubleClick={() => onWidth(null)}
    />
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
