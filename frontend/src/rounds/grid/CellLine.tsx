import type { CellOut, ColumnOut, RowOut } from "../../api/client.ts";
import { figure } from "../../ui/format.ts";
import { isComputed } from "../columns.ts";
import { toldOf } from "./cells.ts";

type Props = {
  row: number;
  /** The chosen column; null for the mark. */
  column: ColumnOut | null;
  found: RowOut | undefined;
  cell: CellOut | undefined;
  /** How many cells are chosen. */
  chosen: number;
  /** Why what was just tried cannot be done; "" when nothing was. */
  refused: string;
  /** Opens a computed column's formula; null where that is locked. */
  onFormula: ((column: ColumnOut) => void) | null;
};

/** The chosen cell in a line: what is there, how it came about, what is wrong with it, and what was in the file. */
export function CellLine({ row, column, found, cell, chosen, refused, onFormula }: Props) {
  const computed = column !== null && isComputed(column);
  const told = column ? toldOf(cell) : found && [found.mark, found.reason].filter(Boolean).join(": ");
  const wrong = column ? !!cell?.trouble : found?.mark === "Held";
  return (
    <div data-testid="chosen-cell" role="status" className="flex gap-2 border-t border-rule-strong px-3 py-1.5">
      <span className="shrink-0 text-ink-2">
        {column?.name ?? "Mark"}, row {figure(row)}
        {chosen > 1 && `, ${figure(chosen)} cells chosen`}
      </span>
      {refused ? (
        <span role="alert" className="min-w-0 flex-1 text-held">
          {refused}
        </span>
      ) : (
        <span className={`min-w-0 flex-1 truncate ${wrong ? "text-held" : ""}`} title={told}>
          {found ? told || "blank" : "…"}
        </span>
      )}
      {computed && column && onFormula ? (
        <button type="button" tabIndex={-1} className="shrink-0 text-pencil underline underline-offset-3" onClick={() => onFormula(column)}>
          Enter: its formula
        </button>
      ) : (
        <span className="shrink-0 text-pencil">{column && !computed ? (found?.locked ? "locked: handed over" : "Enter: change it") : ""}</span>
      )}
    </div>
  );
}
