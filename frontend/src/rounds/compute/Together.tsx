import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";

type Props = {
  desk: Desk;
  /** Says that the rows with that one belong together. */
  onTogether: (row: number, version: number) => void;
  /** Goes to a cell. */
  onCell: (row: number, column: string) => void;
};

/** Rows that would become one text, and have names of different people: whether they belong together, or one is wrong. */
export function Together({ desk, onTogether, onCell }: Props) {
  if (!desk.together.length) return null;
  return (
    <div role="group" aria-label="Do these rows belong together?" className="mt-1.5">
      <p className="text-held">
        {desk.together_in_all === 1 ? "Rows" : `${counted(desk.together_in_all, "group")} of rows`} with the same {desk.combine?.by} and different names are not combined until you say that
        they belong together, as one household or firm does.
      </p>
      <ul className="mt-1 space-y-1">
        {desk.together.map((group) => (
          <li key={group.rows[0]?.row} className="flex flex-wrap items-baseline gap-x-2.5">
            <span className="w-full wrap-anywhere">
              {group.rows.map((row) => `${row.label || "no name"} (row ${row.row})`).join(", ")}
              {group.in_all > group.rows.length && ` and ${counted(group.in_all - group.rows.length, "more row")}`}
            </span>
            <Button className="shrink-0 text-left" onClick={() => onTogether(group.rows[0]?.row ?? 0, desk.version)}>
              They belong together
            </Button>
            <Button kind="quiet" className="shrink-0" onClick={() => onCell(group.rows.at(-1)?.row ?? 0, desk.combine?.by ?? "")}>
              One is wrong
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}
