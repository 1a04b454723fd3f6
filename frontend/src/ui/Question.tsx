import type { Order, Question as Asked } from "../api/client.ts";
import { Button } from "./Button.tsx";

type Props = {
  column: string;
  question: Asked;
  /** The answer that was given here, where it can still be another one. */
  chosen?: Order | undefined;
  onAnswer: (order: Order) => void;
};

/** How a column is to be read, where its cells leave it open: each answer with what it makes of them, in one press. */
export function Question({ column, question, chosen, onAnswer }: Props) {
  return (
    <div role="group" aria-label={`How is ${column} read?`} className="mt-1.5">
      <p className="text-held">
        <b>{column}</b>: {question.ask}
      </p>
      <ul className="mt-1 space-y-1">
        {question.answers.map((answer) => (
          <li key={answer.order} className="flex items-baseline gap-2.5">
            <Button className="w-36 shrink-0 text-left" aria-pressed={chosen === answer.order} onClick={() => onAnswer(answer.order)}>
              {answer.order}
            </Button>
            <span className="txt-13.5 text-ink-2">{answer.then}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
