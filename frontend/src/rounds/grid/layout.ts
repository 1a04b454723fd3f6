import type { ColumnOut, Desk, Role } from "../../api/client.ts";
import type { Widths } from "./widths.ts";

const USUAL_TEXT = 14;
const text = typeof document === "undefined" ? USUAL_TEXT : parseFloat(getComputedStyle(document.documentElement).fontSize);
/** How much larger than usual the clerk's browser writes: rows and columns grow with it. */
const SCALE = (text || USUAL_TEXT) / USUAL_TEXT;

export const ROW_HEIGHT = Math.round(30 * SCALE);
export const HEAD_HEIGHT = Math.round(43 * SCALE);
const MARK_WIDTH = Math.round(114 * SCALE);
const WIDE_MARK_WIDTH = Math.round(172 * SCALE);
/** A mark with a moment beside it takes more room. */
export const markWidth = (wide: boolean): number => (wide ? WIDE_MARK_WIDTH : MARK_WIDTH);
const HAPPENED_WIDTH = Math.round(180 * SCALE);
/** The list counts its height in whole pixels and may count up: kept free, so that the last row is never cut by that. */
export const PART_OF_A_PIXEL = 1;
const MOST_PINNED = 3;
/** The part of the room that what stays in sight may take, the mark included. */
const MOST_OF_THE_ROOM = 0.6;

const WIDTHS: Record<Role, number> = {
  "mobile number": 122,
  name: 130,
  money: 116,
  date: 106,
  number: 116,
  link: 170,
  reference: 72,
  country: 110,
  text: 130,
};

/** The small words above a column's name are cut where they are too long, but for how it is read. */
const small = (column: ColumnOut): number =>
  column.question || column.read_as ? 16 + 6.3 * `${column.role} · ${column.read_as ?? "read how?"}`.length : 0;

/** Room for nearly all of a column's cells and for its name, and at most what its role may take. */
const usualWidth = (column: ColumnOut): number => {
  const cells = Math.min(WIDTHS[column.role], 20 + column.characters * 7.4);
  return Math.round(SCALE * Math.min(230, Math.max(cells, 20 + column.name.length * 7.2, small(column))));
};

/**
 * `pinned` is how far from the right edge a column stays in sight while the others move; null when it moves along.
 * Under the `edge`, the first of them, the others fade, so that no figure seems to end where it is cut.
 */
export type Shown = { column: ColumnOut; at: number; pinned: number | null; edge: boolean; width: number; dragged: boolean };

/** While a sheet is prepared all its columns are shown; once sending starts, who, where, how much, and what happened. */
export function shownColumns(desk: Desk, widths: Widths = {}, room = Infinity, planned = false): Shown[] {
  const all = desk.columns.map((column, at): Shown => {
    const dragged = widths[column.name];
    return { column, at, pinned: null, edge: false, width: dragged ?? usualWidth(column), dragged: dragged !== undefined };
  });
  if (desk.stage === "preparing") return pinned(all, room * MOST_OF_THE_ROOM - markWidth(planned));
  const names = all.filter((s) => s.column.role === "name").slice(0, 1);
  const mobile = all.filter((s) => s.column.role === "mobile number");
  const telling = all.filter((s) => ["money", "reference"].includes(s.column.role));
  const rest = [...telling.filter((s) => s.column.used), ...telling.filter((s) => !s.column.used)].slice(0, 2);
  return [...names, ...mobile, ...rest].sort((a, b) => a.at - b.at);
}

/** What formulas work out stays in sight at the right edge, as far as there is room: it is what the texts are about. */
function pinned(all: Shown[], room: number): Shown[] {
  const kept = all.filter((s) => s.column.formula !== null).slice(-MOST_PINNED);
  while (kept.reduce((sum, s) => sum + s.width, 0) > room) kept.shift();
  const moving = all.filter((s) => !kept.includes(s));
  let right = 0;
  const placed: Shown[] = [];
  for (const shown of kept.reverse()) {
    placed.unshift({ ...shown, pinned: right, edge: shown === kept.at(-1) });
    right += shown.width;
  }
  return [...moving, ...placed];
}

/** Widths of the columns in one line of CSS, the mark's in front; `slack` goes to the last that moves. */
export function template(shown: Shown[], started: boolean, slack = 0, planned = false): string {
  const last = shown.findLast((s) => s.pinned === null);
  const columns = shown.map((s) => {
    if (slack > 0 && s === last) return `${s.width + slack}px`;
    if (s.pinned !== null || s.dragged) return `${s.width}px`;
    return `minmax(${s.width}px, ${s.column.to_the_right ? "auto" : "1fr"})`;
  });
  return [`${markWidth(started || planned)}px`, ...columns, ...(started ? [`minmax(${HAPPENED_WIDTH}px, 2fr)`] : [])].join(" ");
}

/** Room to add, so that scrolled to the end the columns begin with a whole one: a cut figure would be another figure. */
export function slackOf(shown: Shown[], started: boolean, room: number, planned = false): number {
  const over = leastWidth(shown, started, planned) - room;
  let gone = 0;
  for (const s of shown) {
    if (gone >= over) break;
    gone += s.width;
  }
  return over > 0 ? gone - over : 0;
}

/** What the pinned columns hide of those that move. */
export const pinnedWidth = (shown: Shown[]): number =>
  shown.reduce((sum, s) => sum + (s.pinned === null ? 0 : s.width), 0);

export const leastWidth = (shown: Shown[], started: boolean, planned = false): number =>
  shown.reduce((sum, s) => sum + s.width, markWidth(started || planned) + (started ? HAPPENED_WIDTH : 0));
