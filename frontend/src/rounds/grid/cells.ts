import type { CellOut } from "../../api/client.ts";

/** What stands in a cell of the sheet, as it was written there; of a computed one, its value. */
export const writtenIn = (cell: CellOut | undefined): string => cell?.typed ?? cell?.shown ?? "";

/** What was written in cells and is not kept yet, by row and column. */
export function byRow(cells: Iterable<{ row: number; column: string; typed: string }>): Map<number, Map<string, string>> {
  const found = new Map<number, Map<string, string>>();
  for (const { row, column, typed } of cells) {
    const mine = found.get(row) ?? new Map<string, string>();
    found.set(row, mine.set(column, typed));
  }
  return found;
}

export const isMended = (cell: CellOut | undefined): boolean => cell?.original !== null && cell?.original !== undefined;

/** What a cell says of itself: what is wrong, or how it came about or is read, and what stood in the file. */
export function toldOf(cell: CellOut | undefined): string {
  if (!cell) return "";
  const stands = cell.typed ? `${cell.typed}, in a text: ${cell.shown || "nothing"}` : cell.shown;
  const wrong = cell.trouble && cell.shown && !cell.trouble.includes(cell.shown) ? `${cell.shown}: ${cell.trouble}` : cell.trouble;
  const before = isMended(cell) ? `in the file: ${cell.original || "blank"}` : "";
  return [wrong ?? cell.explained ?? stands, before].filter(Boolean).join(" · ");
}

const quoted = (text: string): string => (/["\t\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** Rows of cells as spreadsheets put them on the clipboard: tab-separated, and in quotes what would break the table. */
export const asBlock = (rows: string[][]): string => rows.map((row) => row.map(quoted).join("\t")).join("\n");
