import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";

type Props = { desk: Desk; onSay: (leaveOut: boolean) => void };

/** Rows that the workbook does not show: left out, with the way back. */
export function HiddenRows({ desk, onSay }: Props) {
  if (!desk.hidden) return null;
  const they = desk.hidden === 1 ? "it" : "them";
  return (
    <section aria-label="Hidden rows" className="rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      <h2 className="label">Rows that the workbook does not show</h2>
      <div className="mt-1 flex items-baseline justify-between gap-3">
        <p>
          {counted(desk.hidden, "row is", "rows are")} hidden or filtered away, and {desk.leave_out_hidden ? "left out" : "taken back"}.
        </p>
        <Button className="shrink-0" onClick={() => onSay(!desk.leave_out_hidden)}>
          {desk.leave_out_hidden ? `Take ${they} back` : `Leave ${they} out`}
        </Button>
      </div>
    </section>
  );
}
