import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, told } from "../../api/client.ts";
import { hearOthers } from "../../api/news.ts";

/** How often a window looks whether another one, of any browser, changed the round, in ms. */
const LOOKS_EVERY = 2_000;

/** Has the round shown anew when another window changed or removed it; `known` is the newest version seen here. */
export function useNews(roundId: number, known: number, refresh: () => void): void {
  const { data, isError } = useQuery({
    queryKey: ["version", roundId],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/version", { signal, params: { path: { round_id: roundId } } })),
    refetchInterval: LOOKS_EVERY,
    staleTime: 0,
    retry: false,
  });
  const behind = isError || (data?.version ?? 0) > known;
  useEffect(() => {
    if (behind) refresh();
  }, [behind, data?.version, refresh]);
  useEffect(() => hearOthers((changed) => changed === roundId && refresh()), [roundId, refresh]);
}
