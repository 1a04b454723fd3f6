import type { ReactNode, RefObject } from "react";
import type { Counts, Mark } from "../../api/client.ts";
import { Key } from "../../ui/Button.tsx";
import { focusRegion } from "../../ui/focus.ts";
import { figure } from "../../ui/format.ts";
import type { Filter } from "../desk/state.ts";

type Props = {
  rows: number;
  counts: Counts[];
  filter: Filter;
  search: RefObject<HTMLInputElement | null>;
  onMark: (mark: Mark | null) => void;
  onWords: (words: string) => void;
  following: boolean | null;
  onFollowing: (on: boolean) => void;
  children?: ReactNode;
};

/** Counts by mark, each a filter of the grid, and the search in its rows. */
export function GridBar({ rows, counts, filter, search, onMark, onWords, following, onFollowing, children }: Props) {
  const all = [{ mark: null as Mark | null, label: "All", rows }, ...counts.map((c) => ({ ...c, label: c.mark }))];
  return (
    <div className="flex flex-wrap items-center gap-1 border-b border-rule-strong px-2.5 py-1.5">
      <div role="group" aria-label="Show rows by mark" className="flex flex-wrap gap-1">
        {all.map((c) => {
          const on = filter.mark === c.mark && !filter.finding && filter.wording === null;
          return (
            <button
              key={c.label}
              type="button"
              aria-pressed={on}
              onClick={() => onMark(c.mark)}
              className={`rounded-[3px] px-2.5 py-1 whitespace-nowrap ${on ? "bg-ink text-leaf" : "text-ink-2 hover:bg-chosen"}`}
            >
              {c.label} <span className={on ? "" : "text-pencil"}>{figure(c.rows)}</span>
            </button>
          );
        })}
      </div>
      <div className="ml-auto flex flex-wrap items-center gap-x-3 gap-y-1">
        {following !== null && (
          <button type="button" aria-pressed={following} onClick={() => onFollowing(!following)} className="text-ink-2 hover:text-ink">
            {following ? "Following the next row" : "Follow the next row"}
          </button>
        )}
        {children}
        <label className="flex items-center gap-1.5 text-ink-2">
          <span className="sr-only">Find in rows</span>
          <input
            ref={search}
            type="search"
            placeholder="Find in rows"
            value={filter.words}
            onChange={(e) => onWords(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Escape") onWords("");
              if (["Enter", "ArrowDown", "Escape"].includes(e.key)) focusRegion("sheet");
            }}
            className="w-36 rounded-[3px] border border-rule-strong bg-leaf px-2 py-0.5 placeholder:text-pencil"
          />
          <Key>Ctrl f</Key>
        </label>
      </div>
    </div>
  );
}
