import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, sentenceOf, told, type Change } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, moment } from "../../ui/format.ts";

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
  const pages = seen.data?.pages ?? [];
  const changes = pages.flatMap((page) => page.changes);
  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <div className="mx-auto max-w-[900px]">
        <h1 className="title text-[28px]">What was changed</h1>
        <p className="mt-1 text-[15px] text-ink-2">
          <Link to={`/rounds/${id}`} className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
            {pages[0]?.title ?? "The round"}
          </Link>
          , the newest first: on the left what stood there before, on the right what came in its place. Undo on the desk takes
          the last of these back.
        </p>
        {seen.isError && (
          <p role="alert" className="mt-4 text-failed">
            {sentenceOf(seen.error)}
          </p>
        )}
        {seen.isPending && <p className="mt-6 text-[15px] text-ink-2">Looking…</p>}
        {seen.isSuccess && !changes.length && (
          <p className="mt-6 text-[15px] text-ink-2">Nothing was changed since the sheet was brought in.</p>
        )}
        <ol className="mt-5 border-t border-rule">
          {changes.map((change) => (
            <Line key={change.id} change={change} />
          ))}
        </ol>
        {seen.hasNextPage && (
          <Button className="mt-4" onClick={() => void seen.fetchNextPage()}>
            Show older ones
          </Button>
        )}
      </div>
    </main>
  );
}

function Line({ change }: { change: Change }) {
  return (
    <li className="grid grid-cols-[150px_minmax(0,1fr)] gap-x-5 border-b border-rule py-2 text-[15px]">
      <div className="text-[13.5px] leading-6 text-ink-2">
        {moment(change.at)}
        <span className="block truncate text-[12.5px]">{change.by}</span>
      </div>
      <div className={change.undone_at ? "text-ink-2" : ""}>
        <p>
          <span className={change.undone_at ? "line-through" : "font-semibold"}>{change.what}</span>
          {change.undone_at && <span> · undone {moment(change.undone_at)}</span>}
        </p>
        {change.parts.length > 0 && (
          <table className="mt-0.5 w-full table-fixed text-[13.5px]">
            <tbody>
              {change.parts.map((part) => (
                <tr key={part.where} className="align-top">
                  <th scope="row" className="w-[24%] truncate pr-3 text-left font-normal text-ink-2" title={part.where}>
                    {part.where}
                  </th>
                  <td className="w-[38%] pr-4 wrap-anywhere whitespace-pre-wrap text-ink-2">{part.before || "blank"}</td>
                  <td className="w-[38%] wrap-anywhere whitespace-pre-wrap">{part.after || "blank"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {change.more > 0 && <p className="text-[13.5px] text-ink-2">and {counted(change.more, "more place")}</p>}
      </div>
    </li>
  );
}
