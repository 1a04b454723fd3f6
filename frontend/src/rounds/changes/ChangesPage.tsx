import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, sentenceOf, told, type Change } from "../../api/client.ts";
import { Button, Key } from "../../ui/Button.tsx";
import { usePage } from "../../ui/usePage.ts";
import { Dropped } from "../desk/Dropped.tsx";
import { tellOthers } from "../../api/news.ts";
import { counted, moment, sentenceCase } from "../../ui/format.ts";
import { useNotices } from "../../ui/notices.tsx";
import { useTitle } from "../../ui/useTitle.ts";

/** What was changed in a round: who, when, what, and what stood there before and after; the newest first. */
export default function ChangesPage() {
  const id = Number(useParams()["id"]);
  const seen = useInfiniteQuery({
    queryKey: ["changes", id],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam, signal }) =>
      told(
        api.GET("/api/rounds/{round_id}/changes", {
          signal,
          params: { path: { round_id: id }, query: pageParam === undefined ? {} : { before: pageParam } },
        }),
      ),
    getNextPageParam: (last) => (last.more ? last.changes.at(-1)?.id : undefined),
    staleTime: 0,
  });
  const go = useNavigate();
  const back = useCallback(() => void go(`/rounds/${id}`), [go, id]);
  usePage("Back to the round", back);
  const pages = seen.data?.pages ?? [];
  useTitle(`${pages[0]?.title ?? "The round"}: what was changed`);
  const changes = pages.flatMap((page) => page.changes);
  const queries = useQueryClient();
  const notices = useNotices();
  const walk = (which: "undo" | "redo", upto: number) =>
    void told(api.POST(`/api/rounds/{round_id}/${which}`, { params: { path: { round_id: id }, query: { upto } } }))
      .catch(notices.trouble)
      .then(() => {
        tellOthers(id);
        return Promise.all([seen.refetch(), queries.invalidateQueries({ queryKey: ["desk", id] })]);
      });
  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <div className="mx-auto max-w-[900px]">
        <div data-region="page" className="float-right">
          <Button onClick={back}>
            Back to the round <Key>Esc</Key>
          </Button>
        </div>
        <h1 className="title txt-28">What was changed</h1>
        <p className="mt-1 txt-15 text-ink-2">
          <Link to={`/rounds/${id}`} className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
            {pages[0]?.title ?? "The round"}
          </Link>
          , the newest first. Each can be undone with all that came after it.
        </p>
        {seen.isError && (
          <p role="alert" className="mt-4 text-failed">
            {sentenceOf(seen.error)}
          </p>
        )}
        {seen.isPending && <p className="mt-6 txt-15 text-ink-2">Looking…</p>}
        {seen.isSuccess && !changes.length && (
          <p className="mt-6 txt-15 text-ink-2">Nothing was changed since the sheet was brought in.</p>
        )}
        <ol className="mt-5 border-t border-rule">
          {changes.map((change) => (
            <Line key={change.id} change={change} onWalk={walk} />
          ))}
        </ol>
        <Dropped title={pages[0]?.title} onNewer={null} />
        {seen.hasNextPage && (
          <Button className="mt-4" onClick={() => void seen.fetchNextPage()}>
            Show older ones
          </Button>
        )}
      </div>
    </main>
  );
}

const SHOWN = 8;

type LineProps = { change: Change; onWalk: (which: "undo" | "redo", upto: number) => void };

function Line({ change, onWalk }: LineProps) {
  const [all, setAll] = useState(false);
  const parts = all ? change.parts : change.parts.slice(0, SHOWN);
  return (
    <li className="grid grid-cols-[150px_minmax(0,1fr)] gap-x-5 border-b border-rule py-2 txt-15">
      <div className="txt-13.5 leading-6 text-ink-2">
        {moment(change.at)}
        <span className="block truncate txt-12.5">{change.by}</span>
      </div>
      <div className={change.undone_at ? "text-ink-2" : ""}>
        <p>
          {change.can_be && (
            <Button kind="link" className="float-right" onClick={() => onWalk(change.can_be === "undone" ? "undo" : "redo", change.id)}>
              {change.can_be === "undone" ? "Undo to here" : "Redo to here"}
            </Button>
          )}
          <span className={change.undone_at ? "line-through" : "font-semibold"}>{change.what}</span>
          {change.undone_at && <span> · undone {moment(change.undone_at)}</span>}
        </p>
        {parts.length > 0 && (
          <div className="mt-0.5 txt-13.5">
            {parts.map((part) => (
              <Part key={part.where} part={part} />
            ))}
          </div>
        )}
        {parts.length < change.parts.length && (
          <Button kind="link" className="txt-13.5" onClick={() => setAll(true)}>
            Show all {change.parts.length}
          </Button>
        )}
        {all && change.more > 0 && <p className="txt-13.5 text-ink-2">and {counted(change.more, "more place")}</p>}
      </div>
    </li>
  );
}

/** What fits into a sentence is one; longer words stand one above the other. */
const MOST_IN_A_LINE = 60;

function Part({ part: { where, before, after } }: { part: Change["parts"][number] }) {
  const [was, now] = [before || "blank", after || "blank"];
  if (was.length <= MOST_IN_A_LINE && now.length <= MOST_IN_A_LINE && !/[.!?]$/.test(now))
    return (
      <div className="wrap-anywhere">
        {sentenceCase(where)}: {now}, <span className="text-ink-2">was {was}</span>
      </div>
    );
  return (
    <div className="wrap-anywhere">
      {sentenceCase(where)}:
      <p className="pl-4 whitespace-pre-wrap">{now}</p>
      <p className="pl-4 whitespace-pre-wrap text-ink-2">was {was}</p>
    </div>
  );
}
