import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, told, type Desk, type ConditionTried } from "../../api/client.ts";
import { counted, figure } from "../../ui/format.ts";
import { useSettled } from "../../ui/useSettled.ts";

/**
 * In how many rows a condition that is being written is true; undefined while there is none, or nothing is known yet.
 * `fresh` says that this is of what stands there now, and not of what stood there before the last keys.
 */
export function useCondition(desk: Desk, when: string): { tried: ConditionTried | undefined; fresh: boolean } {
  const settled = useSettled(when.trim());
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["try condition", desk.id, desk.version, settled],
    queryFn: ({ signal }) =>
      told(api.POST("/api/rounds/{round_id}/columns/try-condition", { signal, params: { path: { round_id: desk.id } }, body: { when: settled } })),
    enabled: settled !== "",
    placeholderData: keepPreviousData,
  });
  return { tried: when.trim() === "" ? undefined : data, fresh: !!data && !isPlaceholderData && settled === when.trim() };
}

/** The same in words: "3 rows, the first is row 4, Ines". */
export function rowsOf({ rows, first, unsure, why }: ConditionTried): string {
  const found = rows === 0 ? "no row" : `${counted(rows, "row")}${first ? `, ${rows === 1 ? "it is" : "the first is"} row ${figure(first.row)}${first.label ? `, ${first.label}` : ""}` : ""}`;
  return unsure > 0 ? `${found}; in ${figure(unsure)} it cannot be said: ${why}` : found;
}
