import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client.ts";

/** How long a forecast stands: it begins now, and now goes on. */
const FRESH = 30_000;

/** When the texts of a round leave; `stamp` changes whenever the round does. The last one stands until the new one is there. */
export const useForecast = (id: number, stamp: string, wanted = true) =>
  useQuery({
    enabled: wanted,
    queryKey: ["forecast", id, stamp],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/forecast", { signal, params: { path: { round_id: id } } })),
    placeholderData: (kept) => kept,
    staleTime: FRESH,
    refetchInterval: FRESH,
  });

/** When the text of one row leaves, and why not sooner; null where it has none that is to go. `stamp` as above. */
export const useRowForecast = (id: number, row: number, stamp: string, wanted = true) =>
  useQuery({
    enabled: wanted,
    queryKey: ["forecast", id, stamp, row],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/forecast/rows/{row}", { signal, params: { path: { round_id: id, row } } })),
    placeholderData: (kept) => kept,
    staleTime: FRESH,
    refetchInterval: FRESH,
  });

/** The places of a round's country whose public holidays can be kept. */
export const useHolidayPlaces = (id: number, wanted: boolean) =>
  useQuery({
    queryKey: ["holidays", id],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/forecast/holidays", { signal, params: { path: { round_id: id } } })),
    staleTime: Infinity,
    enabled: wanted,
  });
