import { useState } from "react";
import { Button } from "../../ui/Button.tsx";
import { beginnerUntil, isBeginner } from "./beginner.ts";

const PARTS = [
  ["The sheet", "Your rows. Move with the arrows, type to mend a cell. The small word above a column says what it is for."],
  ["Wording", "Write the text once; { puts in a column."],
  ["Slip", "The text of the chosen row, as it will arrive."],
  ["Worth a look", "What is held, and what is odd. Press a line to see its rows."],
  ["At the foot", "The pace, and the one button that sends. It asks before anything goes."],
] as const;

/** What the parts of the desk are, on the first desk there ever was here; gone for good once it was read. */
export function FirstTime() {
  const [shown, setShown] = useState(isBeginner);
  if (!shown) return null;
  return (
    <section aria-label="What is on the desk" className="mb-2.5 flex items-end gap-5 rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      <dl className="grid flex-1 gap-x-5 gap-y-1 md:grid-cols-5">
        {PARTS.map(([name, about]) => (
          <div key={name}>
            <dt className="font-semibold">{name}</dt>
            <dd className="txt-13 leading-snug text-ink-2">{about}</dd>
          </div>
        ))}
      </dl>
      <Button
        onClick={() => {
          beginnerUntil("now");
          setShown(false);
        }}
      >
        Understood
      </Button>
    </section>
  );
}
