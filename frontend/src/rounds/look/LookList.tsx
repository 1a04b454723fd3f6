import { useEffect, useRef, type KeyboardEvent } from "react";
import type { LookLine } from "../../api/client.ts";

type Props = {
  lines: LookLine[];
  row: number | null;
  /** The rows that were set aside: they come last. */
  aside: number[];
  onChoose: (row: number) => void;
  /** Told when the end of what is there comes into sight. */
  onEnd: () => void;
};

/** The texts in order: an ink tick for what was looked at, and in a few words what is odd. */
export function LookList({ lines, row, aside, onChoose, onEnd }: Props) {
  const chosen = useRef<HTMLButtonElement>(null);
  const at = lines.findIndex((line) => line.row === row);
  useEffect(() => {
    const line = chosen.current;
    if (!line) return;
    line.scrollIntoView({ block: "nearest" });
    // The hand stays in the list when it is there, or nowhere; a paper that lies over the look keeps it.
    const here = document.activeElement;
    const nowhere = here === document.body && !document.querySelector("[role=dialog]");
    if (nowhere || here?.closest("[data-lines]")) line.focus({ preventScroll: true });
    if (at >= lines.length - 20) onEnd();
  }, [at, lines.length, onEnd]);
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10, Home: -lines.length, End: lines.length }[event.key];
    if (by === undefined || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    const next = lines[Math.min(lines.length - 1, Math.max(0, at + by))];
    if (next) onChoose(next.row);
  };
  return (
    <ol
      aria-label="Texts to read"
      data-lines
      onKeyDown={onKeyDown}
      onScroll={(e) => {
        const list = e.currentTarget;
        if (list.scrollTop + list.clientHeight > list.scrollHeight - 800) onEnd();
      }}
      className="min-h-0 flex-1 overflow-auto"
    >
      {lines.map((line) => {
        const on = line.row === row;
        return (
          <li key={line.row} className="border-b border-rule [content-visibility:auto] [contain-intrinsic-height:52px]">
            <button
              ref={on ? chosen : undefined}
              type="button"
              data-line
              data-first={on || undefined}
              aria-current={on}
              tabIndex={on ? 0 : -1}
              onClick={() => onChoose(line.row)}
              className={`flex w-full gap-2.5 px-3 py-1.5 text-left hover:bg-chosen ${on ? "bg-chosen" : ""}`}
            >
              <span aria-hidden className="w-3 shrink-0 text-sent">
                {line.seen ? "✓" : ""}
              </span>
              <span className="w-9 shrink-0 text-ink-2 tabular-nums">{line.row}</span>
              <span className="min-w-0 flex-1">
                <span className={`block truncate ${on ? "font-semibold" : ""}`}>
                  {line.label || "No name"}
                  {line.seen && <span className="sr-only">, looked at</span>}
                  {!line.seen && aside.includes(line.row) && <span className="font-normal text-pencil">, set aside</span>}
                </span>
                {line.says.length > 0 && (
                  <span className={`block truncate txt-12.5 ${line.mark === "Held" ? "font-semibold text-held" : "text-held"}`} title={line.says.join(" · ")}>
                    {line.mark === "Held" && "Held: "}
                    {line.says.join(" · ")}
                  </span>
                )}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}
