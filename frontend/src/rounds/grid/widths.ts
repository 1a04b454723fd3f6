import { useCallback, useState } from "react";

/** Widths of columns that were dragged, in px, by the column's name: next month's sheet has the same ones. */
export type Widths = Readonly<Record<string, number>>;

const KEY = "gentle-ledger/widths";
const MOST_KEPT = 500;
export const LEAST = 44;
export const MOST = 900;

function kept(): Widths {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(KEY) ?? "{}");
    const pairs = Object.entries(found ?? {}).filter(([, width]) => typeof width === "number" && width >= LEAST && width <= MOST);
    return Object.fromEntries(pairs) as Widths;
  } catch {
    return {};
  }
}

/** The widths, and what sets one; null has it follow what is in the column again. */
export function useWidths(): [Widths, (name: string, width: number | null) => void] {
  const [widths, setWidths] = useState<Widths>(kept);
  const set = useCallback((name: string, width: number | null) => {
    setWidths((now) => {
      const others = Object.entries(now).filter(([other]) => other !== name);
      const added: [string, number][] = width === null ? [] : [[name, Math.round(Math.max(LEAST, Math.min(MOST, width)))]];
      const next = Object.fromEntries([...others.slice(-MOST_KEPT), ...added]);
      try {
        localStorage.setItem(KEY, JSON.stringify(next));
      } catch {
        // A browser that keeps nothing still shows the width until it is closed.
      }
      return next;
    });
  }, []);
  return [widths, set];
}
