import { useState } from "react";
import { sentenceOf, type Glance, type Order } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { FileQuestions, isOpen, type Choice } from "../../ui/FileQuestions.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, sentenceCase } from "../../ui/format.ts";
import { Question } from "../../ui/Question.tsx";

export type Answers = Record<string, Order>;

type Props = {
  file: File;
  first: Glance;
  look: (file: File, choice: Choice) => Promise<Glance>;
  busy: boolean;
  onBring: (choice: Choice, answers: Answers) => void;
  onClose: () => void;
};

const MOST_COLUMNS = 60;
const LEFT_OUT: Partial<Record<Glance["parts"][number], string>> = {
  "above the names": "left out",
  blank: "blank, left out",
  totals: "totals, left out",
};

/** The first lines of a file as they stand: which worksheet, which line names the columns, and what comes of it. */
export function GlanceDialog({ file, first, look, busy, onBring, onClose }: Props) {
  const [glance, setGlance] = useState(first);
  const [choice, setChoice] = useState<Choice>({});
  const [trouble, setTrouble] = useState<string | null>(null);
  const [answers, setAnswers] = useState<Answers>({});
  const choose = async (next: Choice) => {
    setChoice(next);
    setAnswers({});
    try {
      setGlance(await look(file, next));
      setTrouble(null);
    } catch (error) {
      setTrouble(sentenceOf(error));
    }
  };
  const worksheet = (name: string) => void choose({ worksheet: name });
  const open = isOpen(glance, choice);
  const header = (line: number) => void choose({ ...choice, header: line });
  const wide = Math.min(MOST_COLUMNS, Math.max(...glance.lines.map((line) => line.length), 1));
  const problem = trouble ?? glance.trouble;
  const read = glance.read_as.filter((column) => column !== null);
  const asks = !problem && read.some((column) => column.question);
  const evidence = read.filter((column) => column.evidence);
  return (
    <Dialog open onClose={onClose} wide title={`How ${file.name} is read`} about="Press the line that names the columns if it is another one.">
      {glance.worksheets.length > 1 && (
        <div className="mt-4 flex flex-wrap items-center gap-2" role="group" aria-label="Which worksheet?">
          <span className="label">Worksheet</span>
          {glance.worksheets.map((name) => (
            <button
              key={name}
              type="button"
              aria-pressed={name === glance.worksheet}
              onClick={() => worksheet(name)}
              className={`rounded-[3px] border px-3 py-1 ${name === glance.worksheet ? "border-ink bg-ink text-leaf" : "border-rule-strong bg-leaf hover:border-pencil"}`}
            >
              {name}
              {glance.unseen.includes(name) && <span className="txt-13"> hidden in the workbook</span>}
            </button>
          ))}
        </div>
      )}
      <FileQuestions glance={glance} choice={choice} onChoose={(next) => void choose(next)} />
      <div tabIndex={0} role="group" aria-label="The first lines" className={`mt-4 overflow-auto rounded-[3px] border border-rule-strong bg-leaf ${asks ? "max-h-[24vh]" : "max-h-[46vh]"}`}>
        <table className="w-full border-collapse">
          <thead className="sr-only">
            <tr>
              <th scope="col">Line</th>
              <th scope="col" colSpan={wide}>
                Cells
              </th>
            </tr>
          </thead>
          <tbody>
            {glance.lines.map((line, i) => {
              const number = i + 1;
              const part = glance.parts[i];
              const leftOut = part && LEFT_OUT[part];
              const names = number === glance.header;
              return (
                <tr
                  key={number}
                  aria-current={names}
                  className={`border-b border-rule ${names ? "bg-field font-semibold" : leftOut ? "text-pencil" : ""} hover:bg-chosen`}
                >
                  <td className={`sticky left-0 w-28 p-0 whitespace-nowrap ${names ? "bg-field" : "bg-leaf"}`}>
                    <button type="button" className="w-full px-2 py-1 text-left txt-13 text-ink-2 outline-offset-[-2px]" onClick={() => header(number)}>
                      {number} {names ? "· names" : leftOut ? `· ${leftOut}` : ""}
                    </button>
                  </td>
                  {Array.from({ length: wide }, (_, c) => (
                    <td key={c} className={`max-w-40 truncate px-2 py-1 ${leftOut ? "line-through decoration-pencil-stroke" : ""}`} title={line[c]}>
                      {line[c]}
                    </td>
                  ))}
                </tr>
              );
            })}
            {!problem && !open && (
              <tr>
                <td className="sticky left-0 bg-leaf px-2 py-1 align-top txt-12.5 text-ink-2">read as</td>
                {glance.read_as.slice(0, wide).map((read, i) => (
                  <td key={i} className="px-2 py-1 align-top txt-12.5 whitespace-nowrap text-ink-2">
                    {read?.role}
                    {read?.question ? (
                      <span className="block text-held">{answers[read.name] ?? "read how?"}</span>
                    ) : (
                      read?.order && (
                        <span className="block" title={read.evidence}>
                          {read.order}
                        </span>
                      )
                    )}
                  </td>
                ))}
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {problem ? (
        <p role="alert" className="mt-3 txt-15 text-failed">
          {problem}
        </p>
      ) : open ? (
        <p className="mt-3 txt-15 text-ink-2">What is asked above comes first.</p>
      ) : (
        <p className="mt-3 txt-15">
          {counted(glance.rows, "row")} in {counted(glance.columns.length, "column")}
          {glance.reading && `; ${glance.reading}`}.
        </p>
      )}
      {!problem && glance.doubt && (
        <p role="alert" className="mt-2 txt-15 text-held">
          {sentenceCase(glance.doubt)}. Is this the right file?
        </p>
      )}
      {!problem &&
        read.map(
          (column) =>
            column.question && (
              <Question
                key={column.name}
                column={column.name}
                question={column.question}
                chosen={answers[column.name]}
                onAnswer={(order) => setAnswers({ ...answers, [column.name]: order })}
              />
            ),
        )}
      {!problem && evidence.length > 0 && (
        <ul className="mt-2 txt-13 text-ink-2">
          {evidence.map((column) => (
            <li key={column.name}>
              <b>{column.name}</b>: {column.evidence}
            </li>
          ))}
        </ul>
      )}
      <div className="dialog-foot">
        <Button className="txt-15" onClick={onClose}>
          Cancel
        </Button>
        <Button data-first kind="act" disabled={!!problem || busy || open} onClick={() => onBring(choice, answers)}>
          {busy ? "Reading…" : open ? "Bring in" : `Bring in ${counted(glance.rows, "row")}`}
        </Button>
      </div>
    </Dialog>
  );
}
