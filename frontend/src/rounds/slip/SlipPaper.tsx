import { Fragment } from "react";
import type { Slip } from "../../api/client.ts";
import { counted, figure } from "../../ui/format.ts";

/** What an alphabet (3GPP TS 23.038) means to whoever writes; its own name is for a second look. */
const ALPHABETS: Record<string, string> = {
  "GSM-7": "plain characters",
  "UCS-2": "special characters",
};

/** Paper with one row's text: what came from the row is underlined, a dashed line is where the text is torn. */
export function SlipPaper({ slip, small = false }: { slip: Slip; small?: boolean }) {
  const empty = slip.parts.every((part) => part.length === 0);
  return (
    <div className={`border border-rule-strong bg-leaf shadow-slip ${small ? "px-3 pt-2.5 pb-2" : "px-[18px] pt-4 pb-2.5"}`}>
      <div className={`leading-[1.6] wrap-anywhere whitespace-pre-wrap ${small ? "txt-14" : "txt-15.5"}`} data-testid="slip-text">
        {empty && <span className="text-pencil">Nothing is written yet.</span>}
        {slip.parts.map((part, p) => (
          <Fragment key={p}>
            {p > 0 && (
              <div
                role="separator"
                aria-label={`Part ${p + 1} begins`}
                className="my-0.5 border-t-2 border-dashed border-pencil-stroke"
              />
            )}
            {part.map((run, i) => (
              <Fragment key={i}>
                {run.gap ? (
                  <span className="rounded-[2px] border border-dashed border-held px-1 text-held" title={`${run.text} cannot be filled`}>
                    {run.text} ?
                  </span>
                ) : run.opens ? (
                  <a
                    href={run.opens}
                    target="_blank"
                    rel="noreferrer"
                    title={`${run.column}: opens ${run.opens}`}
                    className="border-b border-[#b59a5b] hover:text-sent"
                  >
                    {run.text}
                  </a>
                ) : run.column ? (
                  <span className="border-b border-[#b59a5b]" title={run.column}>
                    {run.text}
                  </span>
                ) : (
                  run.text
                )}
              </Fragment>
            ))}
          </Fragment>
        ))}
      </div>
      <div className="mt-2.5 flex justify-between border-t border-rule pt-1.5 txt-13 text-ink-2">
        <span data-testid="slip-size" title={slip.whole ? `${slip.alphabet} (3GPP TS 23.038)` : undefined}>
          {slip.whole
            ? `${counted(slip.parts.length, "part")} · ${figure(slip.characters)} of ${figure(slip.room)} ${ALPHABETS[slip.alphabet] ?? slip.alphabet}`
            : "No text yet: something is missing"}
        </span>
        {slip.whole && slip.cost && <span>{slip.cost}</span>}
      </div>
      {slip.beyond && (
        <p className="txt-13 text-held">
          {slip.beyond.name} {slip.beyond.column ? `in ${slip.beyond.column}` : "in the wording"}, character{" "}
          {slip.beyond.position}, is a special character: with it the text takes {counted(slip.parts.length, "part")}
          , without {figure(slip.beyond.plain_parts)}.
        </p>
      )}
    </div>
  );
}
