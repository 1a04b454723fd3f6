import { useEffect, type Dispatch } from "react";
import type { Desk } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";
import { REST } from "../wording/rest.ts";
import type { DeskAction, Filter } from "./state.ts";

/** Ends a filter whose last row was mended, and says so: an empty list would look as if the rows were lost. */
export function useEndedFilter(filter: Filter, { findings, wordings }: Desk, counts: Desk["counts"], dispatch: Dispatch<DeskAction>): void {
  const notices = useNotices();
  const ended =
    filter.finding !== null
      ? !findings.some((f) => f.check === filter.finding)
      : filter.wording !== null
        ? !wordings.some((w) => (w.name ?? REST) === filter.wording && w.rows !== 0)
        : filter.mark !== null && !counts.some((c) => c.mark === filter.mark && c.rows > 0);
  useEffect(() => {
    if (!ended) return;
    dispatch({ type: "mark chosen", mark: null });
    notices.done("No row is left of those: all rows are shown again.");
  }, [ended, dispatch, notices]);
}
