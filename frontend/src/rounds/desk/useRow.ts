import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, told, type Slip, type Standing, type WordingOut } from "../../api/client.ts";

/**
 * The slip and the standing of one row. What the last key was answered with is newer than the desk until all rows are
 * counted again: it brought this row's slip, and the other rows' are asked for by the wording they belong to.
 */
export function useRow(id: number, row: number, stamp: string, newer: WordingOut | null = null) {
  const params = { path: { round_id: id, number: row } };
  const slip = useQuery({
    queryKey: ["slip", id, row, stamp, newer?.version],
    enabled: newer?.slip.row !== row,
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/rows/{number}/slip", { params, signal })),
    placeholderData: keepPreviousData,
  });
  const standing = useQuery({
    queryKey: ["standing", id, row, stamp],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/rows/{number}/standing", { params, signal })),
    placeholderData: keepPreviousData,
  });
  const shown: Slip | undefined = newer?.slip.row === row ? newer.slip : slip.data;
  const mine: Standing | undefined = standing.data?.row === shown?.row ? standing.data : undefined;
  return { slip: shown, standing: mine };
}
