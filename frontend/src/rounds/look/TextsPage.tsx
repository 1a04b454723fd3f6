import { useInfiniteQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useDeferredValue, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, sentenceOf, told } from "../../api/client.ts";
import { Button, Key } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";
import { usePage } from "../../ui/usePage.ts";
import { useTitle } from "../../ui/useTitle.ts";

const STRETCH = 200;
const LINE = 34;

/** All finished texts, a line each, for skimming; words are found in them. */
export default function TextsPage() {
  const id = Number(useParams()["id"]);
  const go = useNavigate();
  const [typed, setTyped] = useState("");
  const words = useDeferredValue(typed);
  const back = useCallback(() => void go(`/rounds/${id}/look`), [go, id]);
  // Escape gives the words up first, and then leaves.
  usePage("Back to the look", useCallback(() => (typed === "" ? back() : setTyped("")), [typed, back]));
  const asked = useInfiniteQuery({
    queryKey: ["texts", id, words],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) =>
      told(
        api.GET("/api/rounds/{round_id}/look/texts", {
          signal,
          params: { path: { round_id: id }, query: { words, offset: pageParam, limit: STRETCH } },
        }),
      ),
    getNextPageParam: (last, all) => {
      const there = all.reduce((n, page) => n + page.lines.length, 0);
      return there < last.total ? there : undefined;
    },
    placeholderData: (kept) => kept,
    staleTime: 0,
  });
  const lines = asked.data?.pages.flatMap((page) => page.lines) ?? [];
  const first = asked.data?.pages[0];
  useTitle(`${first?.title ?? "The round"}: all texts`);
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({ count: lines.length, getScrollElement: () => scroller.current, estimateSize: () => LINE, overscan: 12 });
  const shown = list.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  const { fetchNextPage, hasNextPage, isFetchingNextPage } = asked;
  useEffect(() => {
    if (last >= lines.length - 40 && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [last, lines.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  const file = (kind: string) => `/api/rounds/${id}/look/texts.${kind}`;
  const saving = "rounded-[3px] border border-rule-strong bg-leaf px-3 py-1.5 font-semibold hover:border-pencil";
  return (
    <main
      className="desk">
      <header className="flex flex-wrap items-end gap-3 pb-3">
        <h1 className="title min-w-0 flex-1 truncate txt-25 leading-9">
          {first?.title} <span className="ml-2 txt-18 text-ink-2">all texts</span>
        </h1>
        <a className={saving} href={file("csv")}>
          CSV
        </a>
        <a className={saving} href={file("xlsx")}>
          XLSX
        </a>
        <Button onClick={() => void go(`/rounds/${id}/look/print`)}>A page to print and sign</Button>
        <Button onClick={back}>
          Back to the look <Key>Esc</Key>
        </Button>
      </header>
      <section aria-label="All texts" data-region="page" className="flex min-h-0 flex-1 flex-col rounded-[3px] border border-rule-strong bg-leaf">
        <div className="flex items-center gap-3 border-b border-rule-strong px-3 py-1.5">
          <input
            type="search"
            autoFocus
            data-first
            aria-label="Find in the texts"
            placeholder="Find in the texts"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            className="w-72 rounded-[3px] border border-rule-strong bg-leaf px-2 py-0.5 placeholder:text-pencil"
          />
          <span role="status" className="text-ink-2">
            {first && counted(first.total, "text")}
          </span>
        </div>
        {asked.isError && (
          <p role="alert" className="p-3 text-failed">
            {sentenceOf(asked.error)}
          </p>
        )}
        <div ref={scroller} tabIndex={0} role="table" aria-label="Texts" aria-rowcount={first?.total ?? 0} className="min-h-0 flex-1 overflow-auto">
          <div role="rowgroup" className="relative" style={{ height: list.getTotalSize() }}>
            {shown.map((item) => {
              const line = lines[item.index];
              if (!line) return null;
              return (
                <div
                  key={line.row}
                  role="row"
                  aria-rowindex={item.index + 1}
                  className="absolute inset-x-0 grid grid-cols-[3.2rem_5rem_11rem_8.6rem_minmax(0,1fr)_2rem] items-center gap-3 border-b border-rule px-3"
                  style={{ height: LINE, transform: `translateY(${item.start}px)` }}
                >
                  <span role="cell" className="text-right text-ink-2 tabular-nums">
                    {figure(line.row)}
                  </span>
                  <span role="cell" className={line.mark === "Held" ? "text-held" : "text-pencil"}>
                    {line.mark}
                  </span>
                  <span role="cell" className="truncate" title={line.label}>
                    {line.label}
                  </span>
                  <span role="cell" className="text-ink-2 tabular-nums">
                    {line.number}
                  </span>
                  <span role="cell" className="truncate" title={line.text || line.says}>
                    {line.text || <span className="text-held">{line.says}</span>}
                  </span>
                  <span role="cell" className="text-right text-ink-2 tabular-nums" title={counted(line.parts, "part")}>
                    {line.text && figure(line.parts)}
                  </span>
                </div>
              );
            })}
          </div>
        </div>
      </section>
    </main>
  );
}
