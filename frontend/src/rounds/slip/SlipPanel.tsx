import type { RowForecast, Slip, Standing } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { clockSeconds, dayOf, sentenceCase } from "../../ui/format.ts";
import { inkOf, MarkWord } from "../../ui/Mark.tsx";
import type { Keeping } from "../desk/useCommands.ts";
import { REST } from "../wording/rest.ts";
import { Release } from "./Release.tsx";
import { SlipPaper } from "./SlipPaper.tsx";

type Props = {
  /** Which round it is, by its random id. */
  of: string;
  slip: Slip | undefined;
  /** Undefined while it is not known yet. */
  standing: Standing | undefined;
  /** Whether something newer is being counted, so that the standing may change. */
  stale: boolean;
  row: number;
  rows: number;
  line: string;
  sent: boolean;
  /** When its text leaves, and why not sooner; null where that is not said. */
  leaves: RowForecast | null;
  onStep: (by: 1 | -1) => void;
  onKeep: (change: Keeping) => void;
  /** Shows the wording that the slip is made from, where the round has several. */
  onWording?: (name: string) => void;
};

/** The selected row's slip, with arrows to the rows beside it and what can be done about it. */
export function SlipPanel({ of, slip, standing, stale, row, rows, line, sent, leaves, onStep, onKeep, onWording }: Props) {
  // The row whose text this is, even while the slip of another is on its way.
  const heading = headingOf(slip, row, sent, standing);
  return (
    <section aria-label="Slip" data-region="slip">
      <header className="flex items-center gap-2 pb-1.5">
        <h2 className="label min-w-0 truncate" title={heading}>
          {heading}
        </h2>
        {slip?.wording != null && (
          <button
            type="button"
            className="min-w-0 truncate text-ink-2 underline decoration-pencil-stroke underline-offset-3 hover:text-ink"
            aria-label={`Write the wording ${slip.wording}`}
            title={`This row has the ${slip.wording === REST ? REST : `wording “${slip.wording}”`}`}
            disabled={!onWording}
            onClick={() => slip.wording != null && onWording?.(slip.wording)}
          >
            {slip.wording}
          </button>
        )}
        {standing && <MarkWord mark={standing.mark} />}
        <span className="ml-auto shrink-0 txt-13 text-ink-2" title={slip?.number && `from ${line} to ${slip.number}`}>
          {slip?.number}
        </span>
        <Button kind="plain" className="px-2! py-0.5!" aria-label="Row before" disabled={row <= 1} onClick={() => onStep(-1)}>
          ↑
        </Button>
        <Button data-first kind="plain" className="px-2! py-0.5!" aria-label="Row after" disabled={row >= rows} onClick={() => onStep(1)}>
          ↓
        </Button>
      </header>
      {slip ? <SlipPaper slip={slip} /> : <div className="h-28 border border-rule-strong bg-leaf" aria-busy="true" />}
      {leaves && leaves.row === row && ["To go", "Ready"].includes(standing?.mark ?? "") && (
        <p className="mt-1.5 txt-13.5 text-pencil" data-testid="leaves">
          {leaves.when ? `Leaves ${leaves.when}` : "Will not leave"}
          {leaves.why && (leaves.when ? `, not sooner because of ${leaves.why}` : `: ${leaves.why}`)}
        </p>
      )}
      {standing?.released != null && (
        <p className="mt-1.5 flex items-baseline gap-3 txt-13.5">
          <span className="min-w-0 flex-1">Released by hand{standing.released && `: ${standing.released}`}</span>
          {(!sent || standing.mark === "Ready") && (
            <Button kind="link" onClick={() => onKeep({ released: false })}>
              Hold it again
            </Button>
          )}
        </p>
      )}
      {standing && (standing.findings.length > 0 || !sent) && (
        <div className={`mt-1.5 flex items-start gap-3 txt-13.5 ${stale ? "stale" : ""}`}>
          <ul className="min-w-0 flex-1">
            {standing.findings.map((f) => (
              <li key={f.reason} className="text-held">
                {sentenceCase(f.reason)}
              </li>
            ))}
          </ul>
          {standing.releasable && (
            <Release key={row} of={`${of}/${row}`} onRelease={(reason) => onKeep({ released: true, reason })} />
          )}
          {!sent && (
            <Button kind="link" onClick={() => onKeep({ left_out: standing.mark !== "Left out" })}>
              {standing.mark === "Left out" ? "Take this row back" : "Leave this row out"}
            </Button>
          )}
        </div>
      )}
      {standing && standing.history.length > 0 && (
        <ol className="mt-2 space-y-0.5 txt-13 text-ink-2" aria-label="What happened to this row">
          {standing.history.map((h, i) => (
            <li key={i} className="flex gap-2">
              <time dateTime={h.at} title={dayOf(h.at)} className="shrink-0">
                {clockSeconds(h.at)}
              </time>
              <span className={inkOf(h.mark)}>{happened(h.mark, h.reason)}</span>
              {h.mark === "Going" && h.reference && <span className="truncate">reference {h.reference}</span>}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** A text that is made from several rows is all of theirs. */
function headingOf(slip: Slip | undefined, row: number, sent: boolean, standing: Standing | undefined): string {
  const together = slip?.together ?? [];
  const named = together.slice(0, 4).join(", ");
  const more = together.length > 4 ? ` and ${together.length - 4} more` : "";
  const name = named ? `Rows ${named}${more} in one text` : `Row ${slip?.row ?? row}`;
  if (slip?.wording != null && !sent) return `${name} ${together.length ? "have" : "has"} the${slip.wording === REST ? "" : " wording"}`;
  if (!sent) return named ? name : `${name} as it will arrive`;
  return standing ? `${name} ${AS[standing.mark] ?? (standing.mark === "To go" ? "as it is locked" : "as it stands")}` : name;
}

/** What was tried and not taken, or is to go again, is no more sent than what waits for its turn. */
const AS: Record<string, string> = { Sent: "as it was sent", Going: "as it was handed over", Failed: "as it was handed over", Unsure: "as it was handed over" };

function happened(mark: string, reason: string): string {
  if (mark === "Going") return "handed over,";
  if (mark === "Sent" && !reason) return "accepted by the carrier";
  return reason ? `${mark}: ${reason}` : mark;
}
