import { useState } from "react";
import { useDraft } from "../../state/useDraft.ts";
import { Button } from "../../ui/Button.tsx";
import { Popover } from "../../ui/Popover.tsx";

/** Lets a held row go, which `of` names. Why is asked for in words: it stands in the ledger and in the marked sheet. */
export function Release({ of, onRelease }: { of: string; onRelease: (reason: string) => void }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason, forget] = useDraft(`release/${of}`, "");
  return (
    <Popover
      label="Send it all the same"
      open={open}
      onOpenChange={setOpen}
      trigger={<Button kind="link">Send it all the same</Button>}
      width="w-80"
    >
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (!reason.trim()) return;
          setOpen(false);
          forget();
          onRelease(reason.trim());
        }}
      >
        <label className="label block" htmlFor="release-reason">
          Why, for the ledger and the marked sheet
        </label>
        <input
          id="release-reason"
          data-first
          value={reason}
          maxLength={500}
          onChange={(e) => setReason(e.target.value)}
          className="w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1"
        />
        <Button type="submit" disabled={!reason.trim()}>
          Release this row
        </Button>
      </form>
    </Popover>
  );
}
