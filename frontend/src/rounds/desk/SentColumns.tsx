import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";

type Props = { desk: Desk; onSay: (column: string, leaveOut: boolean) => void };

/** Columns that say, or seem to say, which rows were sent: what was done about them, and the way back. */
export function SentColumns({ desk, onSay }: Props) {
  const shown = desk.sent_columns.filter((c) => c.left_out !== false);
  if (!shown.length) return null;
  return (
    <section aria-label="Rows that were sent" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label">What the sheet says of sending</h2>
      {shown.map((c) => (
        <div key={c.column} className="mt-1">
          {c.left_out ? (
            <>
              <p>
                {counted(c.rows, "row is", "rows are")} left out: <b>{c.column}</b> says that{" "}
                {c.rows === 1 ? "it was" : "they were"} sent, or may have been (“{c.example}”).
              </p>
              <Button className="mt-1" onClick={() => onSay(c.column, false)}>
                Take {c.rows === 1 ? "it" : "them"} back
              </Button>
            </>
          ) : (
            <>
              <p className="text-held">
                <b>{c.column}</b> reads as if it said which rows were sent: {figure(c.rows)} of {figure(desk.rows)}, such as
                “{c.example}”. They are held until you say what it is.
              </p>
              <div className="mt-1 flex gap-2">
                <Button onClick={() => onSay(c.column, true)}>Leave {c.rows === 1 ? "it" : "them"} out</Button>
                <Button onClick={() => onSay(c.column, false)}>It is something else</Button>
              </div>
            </>
          )}
        </div>
      ))}
    </section>
  );
}
