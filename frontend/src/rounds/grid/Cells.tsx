import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { CellOut, RowOut } from "../../api/client.ts";
import { clockSeconds, figure, sentenceCase } from "../../ui/format.ts";
import { inkOf, MarkWord } from "../../ui/Mark.tsx";
import { isComputed } from "../columns.ts";
import { isMended, toldOf } from "./cells.ts";
import { endOf, MARK, type Onward } from "./hand.ts";
import type { Shown } from "./layout.ts";
import type { Writing } from "./useWriting.ts";

/** A pinned column stays in sight; the others fade as they go under the first of them. */
export const groundOf = ({ column, pinned, edge }: Shown): string =>
  edge ? "sticky pinned pinned-edge" : `${pinned === null ? "relative" : "sticky pinned"} ${isComputed(column) ? "bg-computed" : ""}`;

export const cellId = (row: number, column: number): string => `cell-${row}-${column}`;

type WrittenInProps = Pick<Writing, "how" | "was" | "ahead"> & {
  label: string;
  /** Told of each key, and with null once it is over. */
  onTyped: (typed: string | null) => void;
  onDone: (typed: string | null, onward: Onward) => void;
};

/** A cell being written in. Enter and Tab keep it and go on, Escape leaves it as it was. */
function WrittenIn({ how, was, ahead, label, onTyped, onDone }: WrittenInProps) {
  const [typed, setTyped] = useState(ahead ?? (how === "over" ? "" : was));
  // Leaving the field takes it away, which is leaving it once more.
  const over = useRef(false);
  const finish = (kept: string | null, onward: Onward) => {
    if (over.current) return;
    over.current = true;
    onDone(kept, onward);
  };
  // A row that leaves the list while it is written in takes the field away; what was typed is kept.
  const leave = useRef<() => void>(() => undefined);
  useLayoutEffect(() => {
    leave.current = () => finish(typed, "away");
  });
  useEffect(() => () => leave.current(), []);
  useEffect(() => {
    if (ahead !== null) onTyped(ahead);
    // What was typed before the field was there is written down with its first key.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  return (
    <input
      autoFocus
      aria-label={label}
      value={typed}
      onFocus={(e) => how === "change" && ahead === null && e.target.select()}
      onChange={(e) => {
        setTyped(e.target.value);
        onTyped(e.target.value);
      }}
      onBlur={() => finish(typed, "away")}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.nativeEvent.isComposing) return;
        // Written over, a cell is left by an arrow; where it is changed, the arrows move in it.
        const end = how === "change" && e.key.startsWith("Arrow") ? null : endOf(e);
        if (e.key === "Escape") finish(null, "stay");
        else if (end) finish(typed, end);
        else return;
        e.preventDefault();
      }}
      className="absolute inset-0 z-10 w-full min-w-32 bg-leaf px-2 outline-2 outline-sent"
    />
  );
}

type Props = {
  found: RowOut;
  shown: Shown[];
  started: boolean;
  /** The column that the hand is at, in this row; null when it is in another one. */
  chosen: number | null;
  /** Whether the row is chosen for sending. */
  goes: boolean;
  /** The first and the last column of what is chosen in this row; null where nothing is. */
  left: number | null;
  right: number | null;
  writing: Writing | null;
  /** What was written in cells of this row and is not kept yet, by column. */
  unkept: ReadonlyMap<string, string> | null;
  onTyped: (typed: string | null) => void;
  onWritten: (typed: string | null, onward: Onward) => void;
};

/** The cells of one row. Which of them is pressed is told by `data-column`. */
export const Cells = memo(function Cells({ found, shown, started, chosen, goes, left, right, writing, unkept, onTyped, onWritten }: Props) {
  // Once texts go out, ink is for what has gone; what is still planned, or stays behind, is in pencil.
  const planned = started && ["To go", "Ready", "Held", "Left out"].includes(found.mark);
  return (
    <>
      <div
        role="gridcell"
        id={cellId(found.number, MARK)}
        data-column={MARK}
        data-chosen={chosen === MARK || undefined}
        aria-selected={chosen === MARK}
        aria-label={`Row ${found.number}, ${found.mark}${found.planned && `, leaves ${found.planned}`}${goes ? ", chosen for sending" : ""}${found.reason ? `: ${found.reason}` : ""}`}
        className={`mark-edge flex items-center gap-1.5 px-2 ${chosen === MARK ? "cell-chosen" : ""}`}
        title={found.reason || "Ctrl and a click, or Space, chooses the row for sending"}
      >
        {goes && (
          <span aria-hidden className="absolute left-0.5 txt-12 text-sent">
            ✓
          </span>
        )}
        <span className={`min-w-10 shrink-0 text-right ${goes ? "text-ink" : "text-pencil"}`}>
          {figure(found.number)}
        </span>
        <MarkWord mark={found.mark}>{found.at ? `${found.mark} ${clockSeconds(found.at)}` : found.planned ? `${found.mark} ${found.planned}` : found.mark}</MarkWord>
      </div>
      {shown.map((s, place) => {
        const { column, at, pinned } = s;
        const cell: CellOut | undefined = found.cells[at];
        const mine = chosen === place;
        const typed = unkept?.get(column.name);
        const among = left !== null && right !== null && place >= left && place <= right;
        return (
          <div
            key={column.name}
            role="gridcell"
            id={cellId(found.number, place)}
            data-column={place}
            data-chosen={mine || undefined}
            aria-selected={mine || among}
            aria-readonly={started || isComputed(column)}
            title={toldOf(cell)}
            style={pinned === null ? undefined : { right: pinned }}
            className={`${groundOf(s)} ${s.edge ? "pr-2 pl-4" : "px-2"} ${mine ? "cell-chosen" : ""} ${among ? "cell-among" : ""} ${mine && writing ? "" : "truncate"} leading-[calc(var(--row)-1px)] ${column.to_the_right ? "text-right" : ""} ${column.role === "money" ? "font-semibold" : ""} ${cell?.trouble ? "text-held" : planned ? "text-pencil" : ""}`}
          >
            {isMended(cell) && <span aria-hidden className="mended absolute top-0 left-0 border-4 border-transparent border-t-sent border-l-sent" />}
            {mine && writing && <WrittenIn {...writing} label={`${column.name} of row ${found.number}`} onTyped={onTyped} onDone={onWritten} />}
            {typed !== undefined ? (
              <span className="not-kept" title="Not kept yet">
                {typed.trim() || "–"}
              </span>
            ) : null}
            {typed === undefined && (cell?.shown || (cell?.trouble && isComputed(column) && <span>no value</span>) || <span className={cell?.trouble ? "" : "text-pencil"}>–</span>)}
          </div>
        );
      })}
      {started && (
        <div role="gridcell" title={found.reason} className={`truncate px-2 leading-[calc(var(--row)-1px)] ${inkOf(found.mark)}`}>
          {sentenceCase(found.reason) || (found.mark === "Going" ? "Handing over…" : found.mark === "Sent" ? "Accepted by the carrier" : "")}
        </div>
      )}
    </>
  );
});
