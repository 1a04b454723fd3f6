import { useState } from "react";
import { useDraft } from "../../state/useDraft.ts";
import { Button } from "../../ui/Button.tsx";
import { figure } from "../../ui/format.ts";
import { Popover } from "../../ui/Popover.tsx";

type Props = {
  /** Which round it is, by its random id. */
  of: string;
  /** How many texts are unsure. */
  unsure: number;
  /** The selected row, where it is one of them. */
  row: number | null;
  onSettle: (went: boolean, reason: string, texts: number, rows: number[] | null) => void;
};

/** Settles what nobody can be asked about, by the word of somebody who has looked, or asked the person. */
export function ByHand({ of, unsure, row, onSettle }: Props) {
  const [open, setOpen] = useState(false);
  const [reason, setReason, forget] = useDraft(`settle/${of}`, "");
  const [all, setAll] = useState(false);
  const one = row !== null && !all;
  const texts = one ? 1 : unsure;
  const settle = (went: boolean) => {
    setOpen(false);
    setReason("");
    forget();
    onSettle(went, reason.trim(), texts, one ? [row] : null);
  };
  const said = reason.trim().length >= 3;
  return (
    <Popover label="Settle by hand" open={open} onOpenChange={setOpen} trigger={<Button kind="link">Settle by hand</Button>} width="w-96">
      <form className="space-y-2" onSubmit={(e) => e.preventDefault()}>
        <p className="text-ink-2">
          Look at the carrier's own pages, or ask the person, first. What you say here stands in the ledger as said by hand.
        </p>
        {row !== null && unsure > 1 && (
          <fieldset className="flex gap-4">
            <legend className="sr-only">Which texts</legend>
            <label className="flex items-baseline gap-1.5">
              <input type="radio" name="which" checked={!all} onChange={() => setAll(false)} /> Row {figure(row)} only
            </label>
            <label className="flex items-baseline gap-1.5">
              <input type="radio" name="which" checked={all} onChange={() => setAll(true)} /> All {figure(unsure)} unsure ones
            </label>
          </fieldset>
        )}
        <label className="label block" htmlFor="settle-reason">
          How it is known
        </label>
        <input
          id="settle-reason"
          data-first
          value={reason}
          maxLength={500}
          placeholder="stands on the carrier's page"
          onChange={(e) => setReason(e.target.value)}
          className="w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1"
        />
        <div className="flex flex-wrap gap-2">
          <Button type="button" disabled={!said} onClick={() => settle(true)}>
            {texts === 1 ? "It went" : `All ${figure(texts)} went`}
          </Button>
          <Button type="button" disabled={!said} onClick={() => settle(false)}>
            {texts === 1 ? "It surely did not" : `None of the ${figure(texts)} did`}
          </Button>
        </div>
        <p className="txt-13 text-pencil">What surely did not go is marked as failed, and can be tried again.</p>
      </form>
    </Popover>
  );
}
