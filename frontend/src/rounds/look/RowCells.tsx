import { useRef, useState } from "react";
import { focusSoon } from "../../ui/focus.ts";
import type { LookCell } from "../../api/client.ts";

type Props = {
  cells: LookCell[];
  onMend: (column: string, typed: string, was: string) => void;
};

/** The row's cells; those that stand in the text are underlined as they are there. One of the sheet can be mended here. */
export function RowCells({ cells, onMend }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const back = useRef<HTMLButtonElement | null>(null);
  return (
    <ul aria-label="The row" data-cells className="min-h-0 flex-1 overflow-auto">
      {cells.map((cell) => (
        <li key={cell.column} className={`border-b border-rule px-3.5 py-1.5 ${cell.computed ? "bg-computed" : ""}`}>
          <div className="grid grid-cols-[7.4rem_minmax(0,1fr)] gap-2">
            <span className="truncate text-ink-2" title={cell.column}>
              {cell.column}
            </span>
            <span className="min-w-0 wrap-anywhere">
              {open === cell.column ? (
                <input
                  autoFocus
                  aria-label={`${cell.column} in this row`}
                  defaultValue={cell.typed}
                  onFocus={(e) => e.currentTarget.select()}
                  onBlur={() => setOpen((now) => (now === cell.column ? null : now))}
                  onKeyDown={(e) => {
                    e.stopPropagation();
                    if (e.key === "Enter") {
                      onMend(cell.column, e.currentTarget.value, cell.typed);
                      setOpen(null);
                      // On to the next text: what was mended is read there once more.
                      focusSoon("look list");
                    }
                    if (e.key === "Escape") {
                      e.preventDefault();
                      setOpen(null);
                      setTimeout(() => back.current?.focus());
                    }
                  }}
                  className="w-full rounded-[3px] border border-ink bg-leaf px-1"
                />
              ) : cell.computed ? (
                <Shown cell={cell} />
              ) : (
                <button
                  type="button"
                  data-cell
                  title="Enter: mend this cell"
                  aria-label={`${cell.column}: ${cell.shown || cell.typed || "blank"}${cell.together !== null ? `, of ${cell.rows} rows together: ${cell.together}` : ""}${cell.in_text ? ", stands in the text" : ""}`}
                  onClick={(e) => {
                    back.current = e.currentTarget;
                    setOpen(cell.column);
                  }}
                  onKeyDown={(e) => {
                    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
                    if (!by) return;
                    e.preventDefault();
                    const all = [...(e.currentTarget.closest("ul")?.querySelectorAll<HTMLElement>("[data-cell]") ?? [])];
                    all[all.indexOf(e.currentTarget) + by]?.focus();
                  }}
                  className="min-h-5 w-full text-left hover:bg-chosen"
                >
                  <Shown cell={cell} />
                </button>
              )}
            </span>
          </div>
          {cell.trouble && <p className="txt-12.5 text-held">{cell.trouble}</p>}
          {cell.computed && cell.explained && <p className="txt-12.5 text-ink-2 wrap-anywhere">{cell.explained}</p>}
        </li>
      ))}
    </ul>
  );
}

const underlined = (cell: LookCell) => (cell.in_text ? `border-b font-semibold ${cell.computed ? "border-arrived" : "border-[#b59a5b]"}` : "");

/** What the row has; in the text of combined rows what they have together stands, and that alone is underlined. */
const Shown = ({ cell }: { cell: LookCell }) => (
  <>
    <span className={cell.together === null ? underlined(cell) : ""}>{cell.shown || cell.typed || <span className="text-pencil">–</span>}</span>
    {cell.together !== null && (
      <span className="block txt-13 text-ink-2">
        <span className={underlined(cell)}>{cell.together}</span> of {cell.rows} rows together
      </span>
    )}
  </>
);
