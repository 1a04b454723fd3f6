import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { api, told, type Look } from "../../api/client.ts";

export type Order = "odd" | "row";

/** Lines that are asked for at once; a list that is longer grows as it is walked through. */
export const STRETCH = 200;

/** The list of texts to read, as far as it was walked through, and how far it was read. */
export function useLook(id: number, order: Order, upto: number) {
  const queries = useQueryClient();
  const key = ["look", id, order];
  const found = useQuery({
    queryKey: [...key, upto],
    queryFn: async ({ signal }) => {
      const ask = (offset: number) =>
        told(
          api.GET("/api/rounds/{round_id}/look", {
            signal,
            params: { path: { round_id: id }, query: { order, offset, limit: STRETCH } },
          }),
        );
      const first = await ask(0);
      const lines = [...first.lines];
      while (lines.length < Math.min(upto, first.texts)) lines.push(...(await ask(lines.length)).lines);
      return { ...first, lines };
    },
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const refresh = useCallback(() => void queries.invalidateQueries({ queryKey: ["look", id] }), [queries, id]);
  /** Ticks a line at once; the program is told beside it. */
  const tick = useCallback(
    (row: number) =>
      queries.setQueriesData<Look>({ queryKey: ["look", id] }, (kept) => {
        const line = kept?.lines?.find((each) => each.row === row);
        if (!kept?.lines || !line || line.seen) return kept;
        const lines = kept.lines.map((each) => (each.row === row ? { ...each, seen: true } : each));
        return { ...kept, lines, seen: kept.seen + 1, odd_seen: kept.odd_seen + (line.odd ? 1 : 0) };
      }),
    [queries, id],
  );
  return { look: found.data, error: found.error, refresh, tick };
}

/** One text as it is read. The one before stays on screen until it has come; those that may be `next` are asked for. */
export function useText(id: number, row: number | null, version: number | undefined, next: (number | undefined)[]) {
  const queries = useQueryClient();
  const asking = useCallback(
    (number: number) => ({
      queryKey: ["text to read", id, number, version],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        told(api.GET("/api/rounds/{round_id}/look/{number}", { signal, params: { path: { round_id: id, number } } })),
      staleTime: 30_000,
    }),
    [id, version],
  );
  const ahead = next.join();
  const found = useQuery({ ...asking(row ?? 1), enabled: row !== null, placeholderData: keepPreviousData });
  const came = found.isSuccess && !found.isPlaceholderData;
  useEffect(() => {
    for (const number of came ? ahead.split(",").filter(Boolean) : []) void queries.prefetchQuery(asking(Number(number)));
  }, [came, ahead, queries, asking]);
  return found;
}
