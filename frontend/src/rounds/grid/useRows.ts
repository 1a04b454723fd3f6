import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { api, told, type RowOut, type Rows } from "../../api/client.ts";
import type { Filter } from "../desk/state.ts";

export const PAGE = 100;

/**
 * The rows between two places of the filtered list, fetched by window. While a window is fetched anew the rows last seen
 * there stay, so that nothing flickers as texts go out.
 */
export function useRows(roundId: number, filter: Filter, stamp: string, from: number, to: number, planned: boolean) {
  const list = `${roundId}/${filter.mark}/${filter.finding}/${filter.wording}/${filter.words}`;
  const seen = useRef<{ list: string; pages: Map<number, Rows>; total: number | null }>({
    list,
    pages: new Map(),
    total: null,
  });
  const pages: number[] = [];
  for (let page = Math.floor(from / PAGE); page <= Math.floor(Math.max(from, to) / PAGE); page++) pages.push(page);
  const queries = useQueryClient();
  const { mark, finding, wording, words } = filter;
  const asked = useMemo(
    () => ({ words, planned, ...(mark ? { mark } : {}), ...(finding ? { finding } : {}), ...(wording === null ? {} : { wording }) }),
    [mark, finding, wording, words, planned],
  );
  const asking = useCallback(
    (page: number) => ({
      queryKey: ["rows", list, stamp, planned, page],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        told(
          api.GET("/api/rounds/{round_id}/rows", {
            signal,
            params: {
              path: { round_id: roundId },
              query: { ...asked, offset: page * PAGE, limit: PAGE },
            },
          }),
        ),
      staleTime: 30_000,
      gcTime: 20_000,
    }),
    [list, stamp, planned, roundId, asked],
  );
  const answers = useQueries({ queries: pages.map(asking) });
  /** The rows between two places, in sight or not; a list that ends before has fewer. */
  const between = useCallback(
    async (first: number, last: number): Promise<RowOut[]> => {
      const found: RowOut[] = [];
      for (let page = Math.floor(first / PAGE); page <= Math.floor(last / PAGE); page++) {
        const rows = await queries.fetchQuery(asking(page));
        found.push(...rows.rows.slice(Math.max(0, first - page * PAGE), last - page * PAGE + 1));
        if ((page + 1) * PAGE >= rows.total) break;
      }
      return found;
    },
    [queries, asking],
  );
  /** The numbers of all rows of the list, in sight or not. */
  const numbers = useCallback(
    (): Promise<number[]> =>
      queries.fetchQuery({
        queryKey: ["row numbers", list, stamp],
        queryFn: ({ signal }) =>
          told(
            api.GET("/api/rounds/{round_id}/rows/numbers", {
              signal,
              params: {
                path: { round_id: roundId },
                query: asked,
              },
            }),
          ),
        staleTime: 30_000,
        gcTime: 20_000,
      }),
    [queries, list, stamp, roundId, asked],
  );
  useEffect(() => {
    if (seen.current.list !== list) seen.current = { list, pages: new Map(), total: null };
    answers.forEach((answer, i) => {
      if (!answer.data) return;
      seen.current.pages.set(pages[i] ?? 0, answer.data);
      seen.current.total = answer.data.total;
    });
  });
  /* eslint-disable react-hooks/refs -- what was last seen is only a stand-in until the fetch ends, which renders anew */
  const known = seen.current.list === list ? seen.current : null;
  const at = (place: number): RowOut | undefined => {
    const page = Math.floor(place / PAGE);
    const rows = answers[pages.indexOf(page)]?.data ?? known?.pages.get(page);
    return rows?.rows[place - page * PAGE];
  };
  const total = answers.find((a) => a.data)?.data?.total ?? known?.total ?? null;
  return { at, total, between, numbers, failed: answers.find((a) => a.isError)?.error };
  /* eslint-enable react-hooks/refs */
}
