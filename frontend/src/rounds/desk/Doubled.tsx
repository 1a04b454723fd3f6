import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";

type Props = { desk: Desk; onSay: (name: string, computed: boolean) => void };

/** Columns that the sheet has and the set-up computes: all rows wait until it is said which counts. */
export function Doubled({ desk, onSay }: Props) {
  if (!desk.doubled.length) return null;
  return (
    <section aria-label="Two columns of one name" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label">Two columns of one name</h2>
      {desk.doubled.map((name) => (
        <div key={name} className="mt-1">
          <p className="text-held">
            The sheet has a column <b>{name}</b>, and so has the set-up, by a formula. All rows are held until you say which counts.
          </p>
          <div className="mt-1 flex gap-2">
            <Button onClick={() => onSay(name, true)}>The formula</Button>
            <Button onClick={() => onSay(name, false)}>The sheet’s column</Button>
          </div>
        </div>
      ))}
    </section>
  );
}
