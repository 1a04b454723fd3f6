import { useCallback, type Dispatch } from "react";
import { flushSync } from "react-dom";
import { api, told, type Desk, type RowOut } from "../../api/client.ts";
import type { Action, Finder } from "../../ui/actions.tsx";
import { focusSoon } from "../../ui/focus.ts";
import { figure } from "../../ui/format.ts";
import type { DeskAction } from "./state.ts";

const FOUND = 8;
const TELLING = ["name", "reference", "mobile number", "money"];

/** Finds rows of the sheet by their number, a person, a number or an amount, to go to their cell and slip. */
export function useRowFinder(desk: Desk, dispatch: Dispatch<DeskAction>): Finder {
  const { id, rows, columns } = desk;
  return useCallback(
    async (words, signal) => {
      const show = (row: number, label: string): Action => ({
        name: `row-${row}`,
        label,
        perform: () => {
          // Drawn before the next key can come, which would meet the row before.
          flushSync(() => dispatch({ type: "row found", row }));
          focusSoon("sheet");
        },
      });
      const telling = columns.flatMap((c, i) => (TELLING.includes(c.role) ? [i] : []));
      const labelled = (row: RowOut) =>
        [`Row ${figure(row.number)}`, ...telling.map((i) => row.cells[i]?.shown).filter(Boolean).slice(0, 5)].join(" · ");
      const asked = Number(/^(?:row\s*)?(\d{1,7})$/i.exec(words)?.[1] ?? 0);
      const number = asked >= 1 && asked <= rows ? [show(asked, `Row ${figure(asked)}`)] : [];
      const found = await told(
        api.GET("/api/rounds/{round_id}/rows", { signal, params: { path: { round_id: id }, query: { words, limit: FOUND } } }),
      );
      return [...number, ...found.rows.filter((row) => row.number !== asked).map((row) => show(row.number, labelled(row)))];
    },
    [id, rows, columns, dispatch],
  );
}
