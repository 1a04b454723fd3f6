import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client.ts";

/** How often a running rehearsal is looked at, in ms; a long one, whose strokes stand for several texts, less often. */
const LOOKS_EVERY = 250;
const LONG_ONE = 1_000;

export const rehearsalKey = (id: number) => ["rehearsal", id];

/** The rehearsal of a round, as it runs, and what is kept of the last one; `stamp` changes whenever the round does. */
export const useRehearsal = (id: number, stamp = "") =>
  useQuery({
    queryKey: [...rehearsalKey(id), stamp],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/rehearsal", { signal, params: { path: { round_id: id } } })),
    staleTime: 0,
    refetchInterval: ({ state }) => {
      const shown = state.data?.rehearsal;
      if (shown?.stage !== "running") return false;
      return shown.texts_a_stroke > 1 ? LONG_ONE : LOOKS_EVERY;
    },
  });
