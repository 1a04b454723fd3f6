import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { api, told, type ChosenSum, type Desk } from "../../api/client.ts";

/** The rows that are chosen for sending, by their numbers. */
export type Chosen = ReadonlySet<number>;

const NONE: Chosen = new Set();

/** The rows of one desk that are chosen for sending, and what they come to; a sheet with other rows begins anew. */
export function useChosen(desk: Desk, stamp: string) {
  const [kept, setKept] = useState<{ sheet: string; rows: Chosen }>({ sheet: "", rows: NONE });
  const sheet = `${desk.id}/${desk.file_name}/${desk.worksheet}/${desk.stage === "preparing"}`;
  const chosen = kept.sheet === sheet ? kept.rows : NONE;
  const choose = useCallback((rows: Chosen) => setKept({ sheet, rows }), [sheet]);
  const none = useCallback(() => setKept({ sheet, rows: NONE }), [sheet]);
  const rows = useMemo(() => [...chosen].filter((row) => row <= desk.rows).sort((a, b) => a - b), [chosen, desk.rows]);
  const { data: sum } = useQuery<ChosenSum>({
    queryKey: ["chosen", desk.id, stamp, rows],
    queryFn: ({ signal }) => told(api.POST("/api/rounds/{round_id}/chosen", { signal, params: { path: { round_id: desk.id } }, body: { rows } })),
    enabled: rows.length > 0,
  });
  return { chosen, rows, choose, none, sum };
}

export type Choosing = ReturnType<typeof useChosen>;
