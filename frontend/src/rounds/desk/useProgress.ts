import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client.ts";

/** How far the program is with a round's rows, as words to stand behind "Counting…"; nothing while that is quickly done. */
export function useProgress(roundId: number, on: boolean): string {
  const { data } = useQuery({
    queryKey: ["progress", roundId],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/progress", { signal, params: { path: { round_id: roundId } } })),
    enabled: on,
    refetchInterval: 700,
    staleTime: 0,
    gcTime: 0,
  });
  return on && data && data.percent > 0 && data.percent < 100 ? ` ${data.percent}%` : "";
}
