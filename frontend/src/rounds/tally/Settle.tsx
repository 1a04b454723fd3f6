import type { Tally } from "../../api/client.ts";
import { Button, ConfirmButton } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, figure, sentenceCase } from "../../ui/format.ts";
import { ByHand } from "./ByHand.tsx";

/** What is sent once more: the failed ones, or those that Stop kept back. */
export type Again = "failed" | "stopped";

type Props = {
  /** Which round it is, by its random id. */
  of: string;
  tally: Tally;
  line: string;
  /** What is being asked about. */
  asking: Again | null;
  onAsking: (which: Again | null) => void;
  onAgain: (which: Again, texts: number) => void;
  onAsk: () => void;
  onFailed: () => void;
  /** The selected row, where it is unsure. */
  row: number | null;
  onSettle: (went: boolean, reason: string, texts: number, rows: number[] | null) => void;
  onUnsure: () => void;
};

/** The failed rows by reason, and the ways to settle what did not go. */
export function Settle({ of, tally, line, asking, onAsking, onAgain, onAsk, onFailed, row, onSettle, onUnsure }: Props) {
  const over = tally.stage === "finished" || tally.stage === "stopped";
  const failed = tally.failures.reduce((sum, f) => sum + f.texts, 0);
  const texts = asking === "failed" ? tally.may_try_again : tally.may_take_up;
  if (!failed && !tally.unsure && !(over && tally.may_take_up)) return null;
  return (
    <section aria-label="What did not go" data-region="settle" className="rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      {failed > 0 && (
        <>
          <h2 className="label">
            <button type="button" className="hover:underline" onClick={onFailed}>
              {figure(failed)} failed
            </button>
          </h2>
          <ul className="mt-1 space-y-0.5">
            {tally.failures.map((f) => (
              <li key={`${f.reason}${f.may_retry}`}>
                {figure(f.texts)} <span className="text-pencil">·</span> {sentenceCase(f.reason)}
                {f.may_retry && <span className="text-pencil"> · can be tried again</span>}
              </li>
            ))}
          </ul>
          {tally.failures.some((f) => !f.may_retry) && (
            <p className="mt-1 text-ink-2">A wrong number is mended in the sheet; the row is sent again then, once you confirm it.</p>
          )}
        </>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        {tally.may_try_again > 0 && over && (
          <Button data-first onClick={() => onAsking("failed")}>
            Try {tally.may_try_again === 1 ? "the failed one" : `the ${figure(tally.may_try_again)} failed ones`} again
          </Button>
        )}
        {tally.may_take_up > 0 && over && (
          <Button onClick={() => onAsking("stopped")}>Send the {counted(tally.may_take_up, "text")} that did not go</Button>
        )}
      </div>
      {tally.unsure > 0 && (
        <div className="mt-1">
          <h2 className="label">
            <button type="button" className="hover:underline" onClick={onUnsure}>
              {figure(tally.unsure)} unsure
            </button>
          </h2>
          <p className="mt-1 text-held">
            Nobody can say yet whether {tally.unsure === 1 ? "it went, so it is" : "they went, so they are"} not sent again. The carrier is asked again by itself,
            where it can be.
          </p>
          <div className="mt-1.5 flex flex-wrap items-center gap-2">
            <Button onClick={onAsk}>Ask the carrier now</Button>
            <ByHand of={of} unsure={tally.unsure} row={row} onSettle={onSettle} />
          </div>
        </div>
      )}
      {asking && (
        <Dialog
          open
          onClose={() => onAsking(null)}
          title={`Send ${counted(texts, "text")} from ${line}?`}
          about={
            asking === "failed"
              ? "Only the failed ones that may succeed a second time, with the same numbers and texts. Before each one the carrier is asked about its first try. What goes cannot be taken back."
              : "The texts that Stop kept back, with the numbers and texts that were locked. None of them was sent before. What goes cannot be taken back."
          }
        >
          <div className="dialog-foot">
            <Button onClick={() => onAsking(null)} className="txt-15">
              Cancel
            </Button>
            <ConfirmButton
              data-first
              onClick={() => {
                onAgain(asking, texts);
                onAsking(null);
              }}
            >
              Send {counted(texts, "text")} now
            </ConfirmButton>
          </div>
        </Dialog>
      )}
    </section>
  );
}
