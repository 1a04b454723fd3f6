import { useInfiniteQuery } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useEffect, useMemo, useState, type KeyboardEvent } from "react";
import { useNavigate, useParams } from "react-router";
import { api, sentenceOf, told, type BesideKind, type BesideLine } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button, Key } from "../../ui/Button.tsx";
import { focusSoon } from "../../ui/focus.ts";
import { counted, dayOf, figure, sentenceCase } from "../../ui/format.ts";
import { keep, useKept } from "../../ui/kept.ts";
import { useTitle } from "../../ui/useTitle.ts";

const STRETCH = 200;
const KINDS: BesideKind[] = ["other number", "other name", "changed", "unclear", "new", "gone", "much the same"];
/** By how much of last time's amount one must have changed to be worth a look, in hundredths; a figure of ours. */
const USUAL = 25;

/** A round beside the earlier one that it came from: amounts side by side, and what is new, gone or another. */
export default function BesidePage() {
  const id = Number(useParams()["id"]);
  const go = useNavigate();
  const [kind, setKind] = useState<BesideKind | null>(null);
  const [other, setOther] = useKept<number | null>(`beside/${id}/other`, null);
  const [typed, setTyped] = useKept(`beside/${id}/percent`, String(USUAL));
  const percent = useDeferredValue(/^\d{1,4}$/.test(typed.trim()) ? Number(typed) : USUAL);
  const asked = useInfiniteQuery({
    queryKey: ["beside", id, other, percent, kind],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) =>
      told(
        api.GET("/api/rounds/{round_id}/beside", {
          signal,
          params: { path: { round_id: id }, query: { percent, offset: pageParam, limit: STRETCH, ...(kind ? { kind } : {}), ...(other ? { other } : {}) } },
        }),
      ),
    getNextPageParam: (last, all) => {
      const there = all.reduce((n, page) => n + page.lines.length, 0);
      return there < last.total ? there : undefined;
    },
    placeholderData: (kept) => kept,
    staleTime: 0,
  });
  const first = asked.data?.pages[0];
  const lines = asked.data?.pages.flatMap((page) => page.lines) ?? [];
  useTitle(`${first?.title ?? "The round"}: beside last time`);
  const there = !!first;
  useEffect(() => {
    if (there) focusSoon("beside list");
  }, [there]);
  const back = useCallback(() => void go(`/rounds/${id}/look`), [go, id]);
  const actions = useMemo<Action[]>(() => [{ name: "look", label: "Back to the look", keys: ["Escape"], perform: back }], [back]);
  useActions("beside", actions);
  const read = (row: number) => {
    keep(`look/${id}/row`, row);
    void go(`/rounds/${id}/look`);
  };
  const all = first ? KINDS.reduce((sum, each) => sum + (first.counts[each] ?? 0), 0) : 0;
  return (
    <main className="desk">
      <header className="flex flex-wrap items-end gap-3 pb-3">
        <h1 className="title min-w-0 flex-1 truncate txt-25 leading-9">
          {first?.title} <span className="ml-2 txt-18 text-ink-2">beside last time</span>
        </h1>
        <Button onClick={back}>
          Back to the look <Key>Esc</Key>
        </Button>
      </header>
      {asked.isError && (
        <p role="alert" className="p-3 txt-15 text-failed">
          {sentenceOf(asked.error)}
        </p>
      )}
      {!first && !asked.isError && <p className="txt-15 text-ink-2">Computing every row…</p>}
      {first && !first.other && <p className="txt-15">No number of this round was texted in another one yet, so there is nothing to stand beside.</p>}
      {first?.other && (
        <section aria-label="Beside last time" data-region="beside" className="flex min-h-0 flex-1 flex-col rounded-[3px] border border-rule-strong bg-leaf">
          <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-rule-strong px-3 py-2">
            <label className="flex items-center gap-2">
              <span className="text-ink-2">Beside</span>
              <select
                value={first.other.id}
                onChange={(e) => setOther(Number(e.target.value))}
                className="max-w-96 rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 font-semibold"
              >
                {first.choices.map((each) => (
                  <option key={each.id} value={each.id}>
                    {each.title}, {dayOf(each.at)}
                  </option>
                ))}
              </select>
              <span className="text-pencil">{counted(first.other.shared, "number is", "numbers are")} here too</span>
            </label>
            <label className="flex items-center gap-1.5 text-ink-2">
              changed by more than
              <input
                inputMode="numeric"
                aria-label="Hundredths of last time’s amount"
                value={typed}
                onChange={(e) => setTyped(e.target.value)}
                className="w-14 rounded-[3px] border border-rule-strong bg-leaf px-2 py-0.5 text-right text-ink tabular-nums"
              />
              %
            </label>
            <div role="group" aria-label="Show rows by how they stand" className="ml-auto flex flex-wrap gap-1">
              <Kind label="All" rows={all} on={kind === null} onPress={() => setKind(null)} />
              {KINDS.filter((each) => first.counts[each]).map((each) => (
                <Kind key={each} label={sentenceCase(each)} rows={first.counts[each] ?? 0} on={kind === each} onPress={() => setKind(each)} />
              ))}
            </div>
          </div>
          <p className={`${COLUMNS} border-b border-rule-strong py-1.5 font-semibold`}>
            <span className="text-right">Row</span>
            <span>Name</span>
            <span>Number</span>
            <span className="text-right">Then</span>
            <span className="text-right">{first.column || "Now"}</span>
            <span className="text-right">Change</span>
            <span>What to look at</span>
          </p>
          <ul data-region="beside list" aria-label="Rows beside last time" className="min-h-0 flex-1 overflow-auto" onKeyDown={byArrows}>
            {lines.map((line, at) => (
              <li key={`${line.kind}/${line.row}/${line.before_number}/${at}`} className="border-b border-rule">
                <Line line={line} first={at === 0} onRead={read} />
              </li>
            ))}
            {lines.length === 0 && <li className="p-3 text-ink-2">No row stands so.</li>}
            {asked.hasNextPage && (
              <li className="p-3">
                <Button onClick={() => void asked.fetchNextPage()}>Show more</Button>
              </li>
            )}
          </ul>
        </section>
      )}
    </main>
  );
}

const COLUMNS = "grid w-full grid-cols-[3.2rem_13rem_8.4rem_7rem_7rem_5.4rem_minmax(0,1fr)] gap-3 px-3 text-left";

function Kind({ label, rows, on, onPress }: { label: string; rows: number; on: boolean; onPress: () => void }) {
  return (
    <button type="button" aria-pressed={on} onClick={onPress} className={`rounded-[3px] px-2.5 py-1 whitespace-nowrap ${on ? "bg-ink text-leaf" : "text-ink-2 hover:bg-chosen"}`}>
      {label} <span className={on ? "" : "text-pencil"}>{figure(rows)}</span>
    </button>
  );
}

function Line({ line, first, onRead }: { line: BesideLine; first: boolean; onRead: (row: number) => void }) {
  const { row, percent } = line;
  const odd = line.kind !== "much the same";
  return (
    <button
      type="button"
      data-line
      data-first={first || undefined}
      aria-disabled={row === null}
      onClick={() => row !== null && onRead(row)}
      className={`${COLUMNS} py-1.5 -outline-offset-2 ${row === null ? "cursor-default" : "hover:bg-chosen"}`}
    >
      <span className="text-right text-ink-2 tabular-nums">{row === null ? "–" : figure(row)}</span>
      <span className="truncate" title={line.label}>
        {line.label}
      </span>
      <span className="text-ink-2 tabular-nums">{row === null ? line.before_number : line.number || "–"}</span>
      <span className="text-right text-ink-2 tabular-nums">{line.before || "–"}</span>
      <span className="text-right font-semibold tabular-nums">{line.now || "–"}</span>
      <span className={`text-right tabular-nums ${line.kind === "changed" ? "text-held" : "text-ink-2"}`}>
        {percent === null ? "" : `${percent > 0 ? "+" : percent < 0 ? "−" : ""}${figure(Math.abs(percent))}%`}
      </span>
      <span className={`truncate ${odd ? "text-held" : "text-pencil"}`}>{saying(line)}</span>
    </button>
  );
}

/** What there is to look at in a line, in words. */
function saying(line: BesideLine): string {
  switch (line.kind) {
    case "other number":
      return `${line.number ? "Another number" : "No number now"}: last time ${line.before_number || "none"}`;
    case "other name":
      return `Another name: last time ${line.before_label}`;
    case "changed":
      return "Changed";
    case "unclear":
      return sentenceCase(line.why);
    case "new":
      return "Not in that round";
    case "gone":
      return "Not in this round";
    default:
      return "Much the same";
  }
}

/** The arrows go from line to line. */
function byArrows(event: KeyboardEvent<HTMLElement>) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step || !(event.target instanceof Element)) return;
  const lines = [...event.currentTarget.querySelectorAll<HTMLElement>("[data-line]")];
  lines[lines.findIndex((line) => line === event.target) + step]?.focus();
  event.preventDefault();
}
