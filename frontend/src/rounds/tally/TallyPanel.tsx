import type { Desk } from "../../api/client.ts";
import { counted, figure, moment } from "../../ui/format.ts";
import { Strokes } from "./Strokes.tsx";
import { useCountdown, type LiveTally } from "./useTally.ts";

/** The progress strip: counts, strokes, and what is next. */
export function TallyPanel({ live, desk, lost }: { live: LiveTally; desk: Desk; lost: boolean }) {
  const { tally } = live;
  const seconds = useCountdown(live);
  const n = (mark: string) => tally.counts.find((c) => c.mark === mark)?.rows ?? 0;
  const [sent, failed, unsure, toGo] = [n("Sent"), n("Failed"), n("Unsure"), n("To go") + n("Going")];
  const over = tally.stage === "finished" || tally.stage === "stopped";
  return (
    <section aria-label="Tally" className="rounded-[3px] border border-rule-strong bg-leaf px-4 pt-2.5 pb-2">
      <div className="flex items-baseline gap-4">
        <h2 className="title text-[20px]">{figure(sent)} sent</h2>
        {failed > 0 && <span className="font-semibold text-failed">{figure(failed)} failed</span>}
        {unsure > 0 && <span className="font-semibold text-held">{figure(unsure)} unsure</span>}
        {toGo > 0 && <span className="text-pencil">{figure(toGo)} still to go</span>}
        <span className="ml-auto" role="status" data-testid="next">
          {lost ? "The connection is lost. Sending goes on in the program; trying to reach it…" : next(live, seconds)}
        </span>
      </div>
      <div className="my-2 max-h-[104px] overflow-auto">
        <Strokes strokes={tally.strokes} label="Texts handed over" done={[...tally.strokes].filter((l) => "sfu".includes(l)).length} />
      </div>
      <div className="flex justify-between text-[13px] text-ink-2">
        <span data-testid="what-happened">
          {over && <strong className="font-semibold text-ink">{tally.sentence} </strong>}
          {tally.rows_a_stroke === 1 ? "Each stroke is a row." : `Each stroke stands for ${figure(tally.rows_a_stroke)} rows.`}
          {tally.last_leaves_at && ` Last one leaves at about ${moment(tally.last_leaves_at)}.`}
        </span>
        <span>
          One every {desk.pace.every} s, give or take {desk.pace.give_or_take} s
        </span>
      </div>
    </section>
  );
}

function next({ tally }: LiveTally, seconds: number | null) {
  const row = tally.next ? `row ${figure(tally.next.row)}${tally.next.label ? `, ${tally.next.label}` : ""}` : "";
  if (tally.stage === "paused") return tally.note ? `Paused by the program: ${tally.note}.` : `Paused before ${row}.`;
  if (tally.stage === "finished") return "Done.";
  if (tally.stage === "stopped") return `Stopped. ${counted(tally.may_take_up, "text")} did not go.`;
  if (tally.sender_elsewhere) return "Another running copy of the program sends from this ledger.";
  if (!tally.next) return "Handing over the last one…";
  if (tally.waits_for) return `Waiting, ${tally.waits_for}: ${row}`;
  return (
    <>
      Next in <strong className="font-semibold">{seconds ?? 0} s</strong>: {row}
    </>
  );
}
