import type { ClipboardEvent } from "react";
import type { RowOut } from "../../api/client.ts";
import { isComputed } from "../columns.ts";
import { asBlock, writtenIn } from "./cells.ts";
import type { Shown } from "./layout.ts";

/** Where a block of cells is to go, as the program takes it. */
export type BlockPlace = { rows: number[]; columns: string[]; chosen: number; may_add: boolean };

/** What can be done to many cells at once. */
export type Blocks = {
  change: (act: "empty" | "fill", rows: number[], columns: string[]) => void;
  paste: (text: string, place: BlockPlace) => void;
  copied: (rows: number, columns: number) => void;
  failed: (error: unknown) => void;
};

type Here = {
  shown: Shown[];
  /** The places and columns that are chosen. */
  range: { top: number; bottom: number; left: number; right: number };
  filtered: boolean;
  count: number;
  at: (place: number) => RowOut | undefined;
  between: (first: number, last: number) => Promise<RowOut[]>;
  blocks: Blocks;
  setRefused: (why: string) => void;
  /** Why the chosen cell cannot be written, or nothing at all can be done here; "" where it can. */
  whyNot: () => string;
  /** Whether the row that the hand is at is still fetched, and what is chosen is not what is meant. */
  onTheWay: () => boolean;
  /** Whether no cell at all can be changed: texts go out, or no row of the list is chosen. */
  locked: boolean;
};

/** Emptying, filling, copying and pasting what is chosen in the sheet. */
export function useBlocks({ shown, range, filtered, count, at, between, blocks, setRefused, whyNot, onTheWay, locked }: Here) {
  const columns = shown.slice(range.left, range.right + 1);
  const names = columns.map((s) => s.column.name);
  /** The numbers of the rows between two places; of a filtered list just those that are in it. */
  const numbers = async (first: number, last: number): Promise<number[]> => {
    if (!filtered) return Array.from({ length: Math.min(last, count - 1) - first + 1 }, (_, i) => first + i + 1);
    return (await between(first, last)).map((row) => row.number);
  };
  // Of one column that is worked out it is said why it stays; of several, those of the sheet are changed.
  const refusal = (): string => {
    if (onTheWay()) return "The chosen row is still on its way: once more, please.";
    return locked || names.length === 1 ? whyNot() : "";
  };
  const worked = columns.filter((s) => isComputed(s.column)).map((s) => s.column.name);
  const change = (act: "empty" | "fill", first: number) => {
    const why = refusal();
    setRefused(why || (worked.length ? `Worked out, and so as before: ${worked.join(", ")}.` : ""));
    if (!why) numbers(first, range.bottom).then((rows) => blocks.change(act, rows, names)).catch(blocks.failed);
  };
  const empty = () => change("empty", range.top);
  const fill = () => {
    const above = range.bottom > range.top ? range.top : range.top - 1;
    if (above >= 0 || locked) change("fill", above);
    else setRefused("There is no row above this one to fill down from.");
  };
  const asText = (rows: RowOut[]): string => asBlock(rows.map((row) => columns.map((s) => writtenIn(row.cells[s.at]))));
  const copy = (event: ClipboardEvent, grid: Element | null, cut: boolean) => {
    if (event.target !== grid) return;
    event.preventDefault();
    if (range.top < 0 || onTheWay()) {
      setRefused(refusal());
      return;
    }
    const rows = range.bottom - range.top + 1;
    const drawn = Array.from({ length: rows }, (_, i) => at(range.top + i));
    const told = () => {
      blocks.copied(rows, columns.length);
      if (cut) empty();
    };
    if (drawn.every((row) => row !== undefined)) {
      event.clipboardData.setData("text/plain", asText(drawn));
      told();
    } else
      between(range.top, range.bottom)
        .then((found) => navigator.clipboard.writeText(asText(found)))
        .then(told)
        .catch(blocks.failed);
  };
  const paste = (event: ClipboardEvent, grid: Element | null) => {
    if (event.target !== grid) return;
    event.preventDefault();
    const text = event.clipboardData.getData("text/plain");
    const why = refusal() || (text === "" ? "There are no cells to paste: copy some as text first." : "");
    setRefused(why);
    if (why) return;
    const lines = Math.max(text.split("\n").length, range.bottom - range.top + 1);
    numbers(range.top, Math.min(count - 1, range.top + lines - 1))
      .then((rows) => blocks.paste(text, { rows, columns: names, chosen: range.bottom - range.top + 1, may_add: !filtered }))
      .catch(blocks.failed);
  };
  return { empty, fill, copy, paste };
}
