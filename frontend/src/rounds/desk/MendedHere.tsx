import type { Newer } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";

type Cell = Newer["mended"][number];

/** What is said of the cells that were mended here: by cell, and of all others; true keeps what stands here. */
export type Said = { cells: Record<string, boolean>; rest: boolean | null; added: boolean };

export const NOTHING_SAID: Said = { cells: {}, rest: null, added: true };

const placeOf = (cell: Cell) => JSON.stringify([cell.row, cell.column]);

export const asJson = (said: Said) =>
  JSON.stringify({
    cells: Object.entries(said.cells).map(([place, keep]) => [...(JSON.parse(place) as [number, string]), keep]),
    rest: said.rest,
    added: said.added,
  });

/** What counts for a cell: what was said, or what goes without saying; null while it has to be said. */
const keeps = (cell: Cell, said: Said): boolean | null => said.cells[placeOf(cell)] ?? said.rest ?? (cell.doubtful ? null : true);

/** How many cells still wait for an answer. */
export const open = (newer: Newer, said: Said): number =>
  said.rest === null ? newer.doubtful - newer.mended.filter((cell) => cell.doubtful && said.cells[placeOf(cell)] !== undefined).length : 0;

type Props = { newer: Newer; said: Said; onSay: (said: Said) => void };

/** The cells that were mended here and are others in the newer version: for each, which of the two counts. */
export function MendedHere({ newer, said, onSay }: Props) {
  const all = (keep: boolean) => onSay({ ...said, cells: {}, rest: keep });
  const one = (cell: Cell, keep: boolean) => onSay({ ...said, cells: { ...said.cells, [placeOf(cell)]: keep } });
  const more = newer.mended_in_all - newer.mended.length;
  return (
    <>
      {newer.mended_in_all > 0 && (
        <section aria-label="Mended here" className="mt-4">
          <div className="flex items-baseline gap-2.5">
            <h3 className="label">Mended here</h3>
            <p className="txt-13.5 text-ink-2">
              {newer.doubtful
                ? `${counted(newer.doubtful, "cell was", "cells were")} changed in the newer version as well: say which counts.`
                : "The newer version has them as they were before."}
            </p>
            <Button className="ml-auto" aria-pressed={said.rest === true} onClick={() => all(true)}>
              Keep all
            </Button>
            <Button aria-pressed={said.rest === false} onClick={() => all(false)}>
              Take all of the newer
            </Button>
          </div>
          <div className="mt-1 max-h-[30vh] overflow-auto border border-rule bg-leaf" tabIndex={0} role="group" aria-label="Mended cells">
            <table className="w-full">
              <thead>
                <tr className="border-b border-rule text-left txt-13 text-ink-2">
                  <th className="px-2 font-normal">Row</th>
                  <th className="px-2 font-normal">Column</th>
                  <th className="px-2 font-normal">Before</th>
                  <th className="px-2 font-normal">Mended here to</th>
                  <th className="px-2 font-normal">In the newer version</th>
                </tr>
              </thead>
              <tbody>
                {newer.mended.map((cell) => {
                  const keep = keeps(cell, said);
                  return (
                    <tr key={placeOf(cell)} className="border-b border-rule last:border-0">
                      <td className="px-2 py-0.5">{cell.label || `Row ${cell.row}`}</td>
                      <td className="px-2 py-0.5 text-ink-2">{cell.column}</td>
                      <td className="px-2 py-0.5 text-pencil">{cell.original || "blank"}</td>
                      {[true, false].map((here) => (
                        <td key={String(here)} className="px-1 py-0.5">
                          <label className={`flex cursor-pointer items-baseline gap-1.5 rounded-[2px] px-1 hover:bg-chosen ${keep === here ? "font-semibold" : ""}`}>
                            <input
                              type="radio"
                              className="accent-act"
                              name={placeOf(cell)}
                              aria-label={`${cell.label || `Row ${cell.row}`}, ${cell.column}: ${here ? "keep" : "take"} ${(here ? cell.here : cell.newer) || "blank"}`}
                              checked={keep === here}
                              onChange={() => one(cell, here)}
                            />
                            {(here ? cell.here : cell.newer) || "blank"}
                          </label>
                        </td>
                      ))}
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          {more > 0 && <p className="text-ink-2">and {figure(more)} more, for which Keep all or Take all counts</p>}
        </section>
      )}
      {newer.added_in_all > 0 && (
        <label className="mt-3 flex items-baseline gap-2">
          <input type="checkbox" className="accent-act" checked={said.added} onChange={(e) => onSay({ ...said, added: e.target.checked })} />
          <span>
            Keep {counted(newer.added_in_all, "row that was", "rows that were")} added here:{" "}
            <span className="text-ink-2">
              {newer.added.slice(0, 5).map((row) => row.label || `Row ${row.row}`).join(", ")}
              {newer.added_in_all > 5 && ` and ${figure(newer.added_in_all - 5)} more`}
            </span>
          </span>
        </label>
      )}
    </>
  );
}
