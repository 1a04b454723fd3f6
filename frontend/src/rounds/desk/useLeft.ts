import { useEffect } from "react";
import type { Desk } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";
import { cellLeft, forgetCell } from "../grid/useWriting.ts";
import { keepUnder, keptBelow } from "../../state/durable.ts";
import type { Left } from "../wording/keeper.ts";
import { isComputed } from "../columns.ts";

/** Says what was being typed when the window was closed and has no place any more: it is not lost unsaid. */
export function useLeft(desk: Desk): void {
  const notices = useNotices();
  const { uid, rows, columns, stage, wordings } = desk;
  useEffect(() => {
    for (const [key, value] of keptBelow(`wording/${uid}/`)) {
      const of = key.slice(`wording/${uid}/`.length);
      if (stage === "preparing" && (of === "" || wordings.some(({ name }) => name === of))) continue;
      keepUnder(key, undefined);
      notices.stays(`What was typed into the wording ${of} is not kept: “${(value as Left).text}”. ${stage === "preparing" ? "That wording is not there any more." : "Sending has started."}`);
    }
    const left = cellLeft(uid);
    if (!left) return;
    const column = columns.find(({ name }) => name === left.column);
    if (stage === "preparing" && left.row <= rows && column && !isComputed(column)) return;
    forgetCell(uid);
    notices.stays(`What was begun in row ${left.row}, ${left.column} is not kept: “${left.typed}”. ${stage === "preparing" ? "That cell is not there any more." : "Sending has started."}`);
    // Once for each opening of the desk.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [uid]);
}
