import type { ColumnOut, Desk, Role } from "../../api/client.ts";

export const ROW_HEIGHT = 30;

const WIDTHS: Record<Role, number> = {
  "mobile number": 122,
  name: 112,
  money: 78,
  date: 106,
  number: 68,
  link: 170,
  reference: 72,
  text: 130,
};

const width = (column: ColumnOut): number =>
  Math.min(230, Math.max(WIDTHS[column.role], 18 + column.name.length * 7.2));

export type Shown = { column: ColumnOut; at: number };

/** While a sheet is prepared all its columns are shown; once sending starts, who, where, how much, and what happened. */
export function shownColumns(desk: Desk): Shown[] {
  const all = desk.columns.map((column, at) => ({ column, at }));
  if (desk.stage === "preparing") return all;
  const names = all.filter((s) => s.column.role === "name").slice(0, 1);
  const mobile = all.filter((s) => s.column.role === "mobile number");
  const rest = all.filter((s) => ["money", "reference"].includes(s.column.role)).slice(0, 2);
  return [...names, ...mobile, ...rest].sort((a, b) => a.at - b.at);
}

/** Widths of the columns in one line of CSS, the mark's in front. */
export function template(shown: Shown[], started: boolean): string {
  const columns = shown.map((s) => `minmax(${width(s.column)}px, ${s.column.to_the_right ? "auto" : "1fr"})`);
  return [started ? "172px" : "114px", ...columns, ...(started ? ["minmax(180px, 2fr)"] : [])].join(" ");
}

export const leastWidth = (shown: Shown[], started: boolean): number =>
  shown.reduce((sum, s) => sum + width(s.column), started ? 352 : 114);
