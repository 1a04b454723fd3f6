import type { Desk, WordingOfRound } from "../../api/client.ts";
import { figure } from "../../ui/format.ts";
import type { Panel } from "../compute/ComputeMenu.tsx";
import { REST } from "./rest.ts";

type Props = {
  desk: Desk;
  writing: WordingOfRound;
  shown: string | null;
  /** Whether another one cannot be chosen now. */
  fixed: boolean;
  onChoose: (name: string | null) => void;
  onShow: (name: string | null) => void;
  onPanel: (panel: Panel) => void;
};

/** One quiet line: the wordings in the order in which they are tried, each with the rows that read it, and whose the one below is. */
export function WordingNames({ desk, writing, shown, fixed, onChoose, onShow, onPanel }: Props) {
  const mine = writing.name ?? REST;
  return (
    <div className="border-b border-rule px-3 py-1.5 txt-13.5">
      <div role="group" aria-label="Wordings" className="flex flex-wrap gap-x-3 gap-y-0.5">
        {desk.wordings.map((each) => {
          const on = each.name === writing.name;
          return (
            <button
              key={each.name ?? ""}
              type="button"
              aria-pressed={on}
              disabled={fixed}
              onClick={() => onChoose(each.name)}
              className={on ? "font-semibold text-ink underline decoration-ink underline-offset-4" : "text-ink-2 hover:text-ink"}
            >
              {each.name ?? REST} <span className="text-pencil">{each.rows === null ? "" : figure(each.rows)}</span>
            </button>
          );
        })}
      </div>
      <p className="mt-0.5 flex flex-wrap items-baseline gap-x-3 text-ink-2">
        <span className="min-w-0 wrap-anywhere">
          {writing.name === null ? "For every row that none of the others is for." : `For rows where ${writing.when}`}
        </span>
        {writing.name !== null && (
          <button type="button" className="text-ink underline decoration-pencil-stroke underline-offset-3" onClick={() => onPanel({ kind: "wording", was: writing.name })}>
            Change
          </button>
        )}
        <button
          type="button"
          aria-pressed={shown === mine}
          className="text-ink underline decoration-pencil-stroke underline-offset-3"
          onClick={() => onShow(shown === mine ? null : mine)}
        >
          {shown === mine ? "Show all rows" : "Show these rows"}
        </button>
      </p>
      {writing.when_problem && (
        <p role="alert" className="text-failed">
          {writing.when_problem.message} {writing.when_problem.remedy}
        </p>
      )}
    </div>
  );
}
