import { useCallback, useLayoutEffect, useRef, useState } from "react";
import type { CellOut, ColumnOut } from "../../api/client.ts";
import { isComputed } from "../columns.ts";
import { keepUnder, keptUnder } from "../../state/durable.ts";
import { writtenIn } from "./cells.ts";
import { after, typedAhead, waits, type Hand, type Journey, type Key, type Onward, type Size, type Spot } from "./hand.ts";

/** A cell that is written in: over what it has, or changing that. */
export type Writing = {
  how: "over" | "change";
  row: number;
  column: ColumnOut;
  /** What the cell shows, and what stands in it: for a moment that may be more than is shown. */
  shows: string;
  was: string;
  /** What was typed over the cell before its field was there; null for nothing. */
  ahead: string | null;
  /** The version of the round that was shown when it was opened. */
  seen: number;
};

/** What was being written in a cell when the window was closed, or its page made anew. */
type Left = { row: number; column: string; how: Writing["how"]; was: string; seen: number; typed: string };

const leftKey = (uid: string): string => `cell/${uid}`;

/** What was left in a cell of a round; null for nothing. */
export const cellLeft = (uid: string): Left | null => (keptUnder(leftKey(uid)) as Left | undefined) ?? null;

export const forgetCell = (uid: string): void => keepUnder(leftKey(uid), undefined);

export type Bound = { journey: Journey; column: number };

type Given = {
  row: number;
  spot: Spot;
  size: Size;
  /** The chosen column, null for the mark; and its cell, once its row has come. */
  column: ColumnOut | null;
  here: boolean;
  /** The cell that the hand is on its way to, whose row is not chosen yet; null while it is where it was sent. */
  boundFor: () => Bound | null;
  cell: CellOut | undefined;
  whyNot: () => string;
  setRefused: (why: string) => void;
  /** Opens a computed column's formula; null where that is locked. */
  onFormula: ((column: ColumnOut) => void) | null;
  onMend: (row: number, column: string, typed: string, was: string, seen: number) => void;
  /** What was written in the cell and is not kept yet. */
  unkept: string | undefined;
  /** The round, by its random id, and its version as it is shown. */
  uid: string;
  version: number;
  go: (to: Hand) => Journey;
  focus: () => void;
  hasFocus: () => boolean;
};

/** How long a cell may show what stood there before it was written, in ms. */
const STALE_AT_MOST = 5_000;

/**
 * Writing in the chosen cell. Keys typed before its row has come wait for it, each with its sense: a word must not lose
 * its beginning, nor the key that ends it.
 */
export function useWriting(given: Given) {
  const { row, spot, here, boundFor, column, cell, size, whyNot, setRefused, onFormula, onMend, go, focus, hasFocus, uid, version, unkept } = given;
  // What was left in the chosen cell is written on there.
  const [writing, setWriting] = useState<Writing | null>(() => {
    const left = cellLeft(uid);
    if (!left || left.row !== row || left.column !== column?.name || whyNot() !== "") return null;
    return { how: left.how, row, column, shows: left.was, was: left.was, ahead: left.typed, seen: left.seen };
  });
  const own = useRef<{ row: number; column: string; before: string; typed: string; at: number } | null>(null);
  const waiting = useRef<(Bound & { at: number; keys: Key[] }) | null>(null);

  const opened = (how: Writing["how"], ahead: string | null): Writing | null => {
    const why = whyNot();
    setRefused(why);
    if (why || !column || !here) return null;
    const last = own.current;
    const shows = unkept ?? writtenIn(cell);
    // The cell may still show what stood there before it was last written from here.
    const stale = last?.row === row && last.column === column.name && last.before === shows && Date.now() - last.at < STALE_AT_MOST;
    return { how, row, column, shows, was: stale ? last.typed : shows, ahead, seen: version };
  };
  /** Each key is written down at once: the plug may be pulled before the next. */
  const onTyped = useCallback(
    (typed: string | null) => {
      if (!writing) return;
      const { row: its, column: of, how, was, seen } = writing;
      keepUnder(leftKey(uid), typed === null ? undefined : ({ row: its, column: of.name, how, was, seen, typed } satisfies Left));
    },
    [writing, uid],
  );

  const write = (how: Writing["how"], ahead: string | null = null) => {
    if (how === "change" && column && isComputed(column) && onFormula) onFormula(column);
    else {
      const open = opened(how, ahead);
      if (open) setWriting(open);
    }
  };
  const keep = (open: Writing, typed: string | null) => {
    if (typed === null || typed === open.was) return;
    own.current = { row: open.row, column: open.column.name, before: open.shows, typed: typed.trim(), at: Date.now() };
    onMend(open.row, open.column.name, typed, open.was, open.seen);
  };
  const written = (typed: string | null, next: Onward) => {
    if (!writing) return;
    setWriting(null);
    keep(writing, typed);
    keepUnder(leftKey(uid), undefined);
    if (next === "away") return;
    focus();
    const to = after({ at: spot, from: spot }, next, size);
    if (to) go(to);
  };
  const doneWriting = useRef(written);
  // Before the next key can come, as is what follows: between a draw and a later effect a letter, or the key that ends the
  // cell, would meet what was there before.
  useLayoutEffect(() => {
    doneWriting.current = written;
  });
  const onWritten = useCallback((typed: string | null, next: Onward) => doneWriting.current(typed, next), []);

  const forget = () => {
    waiting.current = null;
  };
  const replay = (typed: Key[]) => {
    let keys = typed;
    forget();
    while (keys.length > 0) {
      const { opens, change, text, end, rest } = typedAhead(keys);
      keys = rest;
      // A hand that has gone elsewhere has left the cell, which keeps what was typed in it.
      if (end === null && hasFocus()) {
        if (opens) write(change ? "change" : "over", text);
        return;
      }
      const open = text === null ? null : opened("over", null);
      if (open) keep(open, text);
      const to = after({ at: spot, from: spot }, end ?? "away", size);
      if (!to || (to.at.place === spot.place && to.at.column === spot.column)) continue;
      waiting.current = { journey: go(to), column: to.at.column, at: row, keys };
      return;
    }
  };
  useLayoutEffect(() => {
    const meant = waiting.current;
    if (!here || !meant || (meant.journey.row === null && meant.at === row)) return;
    // Something else chose another cell meanwhile: what was meant for one is not written in another.
    if (meant.journey.row !== row || meant.column !== spot.column) {
      const text = typedAhead(meant.keys).text;
      forget();
      if (text) setRefused(`“${text}” was typed for a row that had not come, and is written nowhere.`);
    } else replay(meant.keys);
    // Only a cell that comes, or is chosen, has what was typed ahead written in it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [here, row, spot.column]);

  /** True when a key waits for the row it is meant for. */
  const ahead = (key: Key): boolean => {
    const bound = boundFor();
    if ((here && bound === null) || whyNot()) return false;
    const meant = bound ?? { journey: { row }, column: spot.column };
    const earlier = waiting.current;
    const same = earlier?.column === meant.column && (earlier.journey === meant.journey || earlier.journey.row === row);
    const typed = earlier && same ? earlier.keys : [];
    if (!waits(typed, key)) return false;
    waiting.current = { ...meant, at: row, keys: [...typed, key] };
    return true;
  };
  return { writing, write, onWritten, onTyped, ahead, forget };
}
