import type { ColumnChange, Desk } from "../../api/client.ts";
import { Question } from "../../ui/Question.tsx";

type Props = { desk: Desk; onChange: (name: string, change: ColumnChange) => void };

/** The columns that rows wait for, because their cells leave open how they are read. */
export function ColumnQuestions({ desk, onChange }: Props) {
  const asked = desk.columns.filter((c) => c.awaited);
  if (!asked.length) return null;
  return (
    <section aria-label="Columns in question" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label">How to read what the sheet leaves open</h2>
      {asked.map(
        (c) =>
          c.question && (
            <Question key={c.name} column={c.name} question={c.question} onAnswer={(reading) => onChange(c.name, { reading })} />
          ),
      )}
    </section>
  );
}
