/** Where the hand is in the sheet, and where a key takes it: plain data, as in any spreadsheet. */

/** The mark in front of a row, as a column. */
export const MARK = -1;

/** `place` is that of a row in the list as it is filtered, from 0. */
export type Spot = { place: number; column: number };

/** `from` is the other end of what is chosen; the same as `at` where that is one cell. */
export type Hand = { at: Spot; from: Spot };

/** `page` is how many rows are in sight. */
export type Size = { rows: number; columns: number; page: number };

export type Key = { key: string; ctrlKey: boolean; shiftKey: boolean };

const within = (n: number, least: number, most: number): number => Math.max(least, Math.min(most, n));

const alone = (place: number, column: number): Hand => ({ at: { place, column }, from: { place, column } });

/** The first and the last row and column of what is chosen. */
export function chosenIn({ at, from }: Hand): { top: number; bottom: number; left: number; right: number } {
  return {
    top: Math.min(at.place, from.place),
    bottom: Math.max(at.place, from.place),
    left: Math.min(at.column, from.column),
    right: Math.max(at.column, from.column),
  };
}

export const isOneCell = ({ at, from }: Hand): boolean => at.place === from.place && at.column === from.column;

/** Whether what is chosen are marks, and with them whole rows. */
export const onMarks = ({ at, from }: Hand): boolean => at.column === MARK && from.column === MARK;

/** Goes on to the next cell or the one before, over the end of the row; null behind the last and before the first. */
export function onward({ at }: Hand, size: Size, by: 1 | -1): Hand | null {
  const last = size.columns - 1;
  const column = at.column + by;
  if (column >= 0 && column <= last) return alone(at.place, column);
  const place = at.place + by;
  return place >= 0 && place < size.rows ? alone(place, by > 0 ? 0 : last) : null;
}

/** Where a key takes the hand; null for a key that takes it nowhere. */
export function moved(hand: Hand, { key, ctrlKey: ctrl, shiftKey: shift }: Key, size: Size): Hand | null {
  const { place, column } = hand.at;
  const [bottom, right] = [Math.max(0, size.rows - 1), Math.max(0, size.columns - 1)];
  if (key === "Tab") return ctrl ? null : onward(hand, size, shift ? -1 : 1);
  if (key === " " && (ctrl || shift))
    return ctrl
      ? { at: { place: bottom, column }, from: { place: 0, column } }
      : { at: { place, column: right }, from: { place, column: 0 } };
  if (key.toLowerCase() === "a" && ctrl) {
    const all = onMarks(hand) ? [MARK, MARK] : [0, right];
    return { at: { place: bottom, column: all[1] ?? right }, from: { place: 0, column: all[0] ?? 0 } };
  }
  const goes: Record<string, [number, number]> = {
    ArrowDown: ctrl ? [bottom, column] : [place + 1, column],
    ArrowUp: ctrl ? [0, column] : [place - 1, column],
    ArrowRight: ctrl ? [place, right] : [place, column + 1],
    ArrowLeft: ctrl && column > 0 ? [place, 0] : [place, column - 1],
    Home: ctrl ? [0, 0] : [place, 0],
    End: ctrl ? [bottom, right] : [place, right],
    PageDown: [place + size.page, column],
    PageUp: [place - size.page, column],
  };
  const to = goes[key];
  if (!to) return null;
  // Over the marks whole rows are chosen.
  if (shift && onMarks(hand) && to[1] === MARK) return { at: { place: within(to[0], 0, bottom), column: MARK }, from: hand.from };
  // Cells that are chosen have no marks among them: a mark cannot be copied, emptied or written.
  const at = { place: within(to[0], 0, bottom), column: within(to[1], shift ? 0 : MARK, right) };
  const from = { ...hand.from, column: Math.max(0, hand.from.column) };
  return { at, from: shift ? from : at };
}

/** A hand's way to another row; null for as long as nobody knows which one that is, and for good where it leads nowhere. */
export type Journey = { row: number | null };

/** Where the hand goes on to from a cell that was written; "away" where something else has the focus by then. */
export type Onward = "down" | "up" | "right" | "left" | "stay" | "away";

const ARROWS: Record<string, Onward> = { ArrowDown: "down", ArrowUp: "up", ArrowRight: "right", ArrowLeft: "left" };

/** How a key ends what is typed over a cell; null where it does not. */
export function endOf({ key, shiftKey }: Key): Onward | null {
  if (key === "Enter") return shiftKey ? "up" : "down";
  if (key === "Tab") return shiftKey ? "left" : "right";
  return ARROWS[key] ?? null;
}

/** Where the hand is after a cell was written; null where it stays. */
export function after(hand: Hand, next: Onward, size: Size): Hand | null {
  const here = { at: hand.at, from: hand.at };
  if (next === "right" || next === "left") return onward(here, size, next === "right" ? 1 : -1);
  const key = { down: "ArrowDown", up: "ArrowUp", stay: "", away: "" }[next];
  return moved(here, { key, ctrlKey: false, shiftKey: false }, size);
}

/** A letter as it is typed, not one that goes with Ctrl. */
const isLetter = ({ key, ctrlKey }: Key): boolean => key.length === 1 && !ctrlKey;

const OPENS = ["Enter", "F2"];

/** Whether a key at a cell whose row is still on its way waits for it: what opens the cell does, and all that is typed behind that. */
export const waits = (typed: Key[], key: Key): boolean => typed.length > 0 || isLetter(key) || OPENS.includes(key.key);

/**
 * Keys typed at a cell whose row was still on its way: how they open it, what they write in it (null for nothing), how
 * they leave it (null while it is still open), and those meant for the cell after it.
 */
export function typedAhead(keys: Key[]): { opens: boolean; change: boolean; text: string | null; end: Onward | null; rest: Key[] } {
  const first = keys[0]?.key ?? "";
  const change = OPENS.includes(first);
  const opens = change || keys.slice(0, 1).some(isLetter);
  let text: string | null = null;
  for (const [i, key] of keys.entries()) {
    if (i === 0 && change) continue;
    const told = { opens, change, rest: keys.slice(i + 1) };
    const end = endOf(key);
    if (key.key === "Escape") return { ...told, text: null, end: "stay" };
    if (key.key === "Delete" && !opens) return { ...told, text: "", end: "stay" };
    // Where a cell is changed, an arrow goes to a place in it that nobody has seen yet: it is left open for the hand.
    if (end && change && key.key in ARROWS) return { ...told, text, end: null, rest: [] };
    if (end) return { ...told, text, end };
    if (key.key === "Backspace") text = (text ?? "").slice(0, -1);
    else if (isLetter(key)) text = (text ?? "") + key.key;
  }
  return { opens, change, text, end: null, rest: [] };
}
