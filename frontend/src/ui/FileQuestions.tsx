import type { Commas, Glance } from "../api/client.ts";
import { Button } from "./Button.tsx";

/** What was said of a file: which worksheet, which line has the names, how its characters and its commas are read. */
export type Choice = { worksheet?: string; header?: number; characters?: string; commas?: Record<string, Commas> };

/** A choice as the fields of a form. */
export const fieldsOf = ({ commas, ...rest }: Choice) => ({ ...rest, commas: commas && JSON.stringify(commas) });

/** Whether a file still has a question without an answer. */
export const isOpen = (glance: Glance, choice: Choice): boolean =>
  (glance.characters.length > 0 && !choice.characters) || glance.commas.some((c) => !(choice.commas?.[c.column] ?? c.answer));

type Props = { glance: Glance; choice: Choice; onChoose: (choice: Choice) => void };

/** What a text file leaves open about itself, each way with what it makes of the file, in one press. */
export function FileQuestions({ glance, choice, onChoose }: Props) {
  return (
    <>
      {glance.characters.length > 0 && (
        <div className="mt-4" role="group" aria-label="How are its characters read?">
          <p className="text-held">The file does not say how its characters are to be read. Which is right?</p>
          <div className="mt-1 flex flex-wrap gap-2">
            {glance.characters.map((c) => (
              <Button key={c.name} aria-pressed={choice.characters === c.name} onClick={() => onChoose({ ...choice, characters: c.name })}>
                {c.word} <span className="txt-13 text-ink-2">{c.about}</span>
              </Button>
            ))}
          </div>
        </div>
      )}
      {glance.commas.map((c) => (
        <div key={c.column} className="mt-4" role="group" aria-label={`How are the commas in ${c.column} read?`}>
          <p className="text-held">{c.ask}</p>
          <div className="mt-1 flex flex-wrap gap-2">
            {(
              [
                ["within cells", `${c.whole} in ${c.column}`],
                ["between cells", c.apart],
              ] as const
            ).map(([said, shown]) => (
              <Button
                key={said}
                aria-pressed={(choice.commas?.[c.column] ?? c.answer) === said}
                onClick={() => onChoose({ ...choice, commas: { ...choice.commas, [c.column]: said } })}
              >
                {shown}
              </Button>
            ))}
          </div>
        </div>
      ))}
    </>
  );
}
