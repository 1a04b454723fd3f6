import type { ReactNode } from "react";
import type { ColumnChange, Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { Question } from "../../ui/Question.tsx";

type Props = {
  desk: Desk;
  onChange: (name: string, change: ColumnChange) => void;
  onCountries: (countries: string[]) => void;
  /** What else is asked. */
  children?: ReactNode;
};

/** The columns that rows wait for, because their cells leave open how they are read. */
export function ColumnQuestions({ desk, onChange, onCountries, children }: Props) {
  const asked = desk.columns.filter((c) => c.awaited);
  const numbers = desk.which_number;
  const countries = desk.which_country;
  if (!asked.length && !numbers.length && !countries.length && !children) return null;
  return (
    <section aria-label="Columns in question" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label">How to read what the sheet leaves open</h2>
      {numbers.length > 0 && (
        <div role="group" aria-label="Which column do texts go to?" className="mt-1.5">
          <p className="text-held">
            {numbers.length > 1 ? "Several columns have phone numbers. Which do texts go to?" : "Is this where texts go? Its name speaks against it."}
          </p>
          <ul className="mt-1 space-y-1">
            {numbers.map((n) => (
              <li key={n.column} className="flex items-baseline gap-2.5">
                <Button className="w-36 shrink-0 truncate text-left" title={n.column} onClick={() => onChange(n.column, { role: "mobile number" })}>
                  {n.column}
                </Button>
                <span className="txt-13.5 text-ink-2">{n.example ? `such as ${n.example}` : "blank in every row"}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      {countries.map((c) => (
        <div key={c.region} className="mt-1.5 flex items-baseline gap-2.5">
          <Button className="w-36 shrink-0 text-left" title={`Numbers from ${c.country} are right`} onClick={() => onCountries([...desk.countries, c.region])}>
            {c.rows === 1 ? "It is right" : "They are right"}
          </Button>
          <span className="text-held">
            {c.rows === 1 ? `The number in row ${c.first} is` : `${counted(c.rows, "number")}, the first in row ${c.first}, are`} read as from {c.country}, and held until
            you say that {c.rows === 1 ? "it is" : "they are"} right.
          </span>
        </div>
      ))}
      {children}
      {asked.map(
        (c) =>
          c.question && (
            <Question key={c.name} column={c.name} question={c.question} onAnswer={(reading) => onChange(c.name, { reading })} />
          ),
      )}
    </section>
  );
}
