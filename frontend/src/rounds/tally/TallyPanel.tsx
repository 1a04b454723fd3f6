import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure, lasting, moment, sentenceCase } from "../../ui/format.ts";
import { PaceWords } from "../dock/PaceSentence.tsx";
import { TellMe } from "../told/TellMe.tsx";
import { Strokes } from "./Strokes.tsx";
import { useCountdown, useCountdownTo, type LiveTally } from "./useTally.ts";

type Props = {
  live: LiveTally;
  desk: Desk;
  row: number;
  lost: boolean;
  /** Has the round go by the line in use now. */
  onLine: (identity: string, texts: number) => void;
};

/** The progress strip: counts, strokes, and what is next. */
export function TallyPanel({ live, desk, row, lost, onLine }: Props) {
  const { tally } = live;
  const seconds = useCountdown(live);
  const n = (mark: string) => tally.texts.find((c) => c.mark === mark)?.rows ?? 0;
  const [sent, failed, unsure, toGo] = [n("Sent"), n("Failed"), n("Unsure"), n("To go") + n("Going")];
  const over = tally.stage === "finished" || tally.stage === "stopped";
  return (
    <section aria-label="Tally" className="rounded-[3px] border border-rule-strong bg-leaf px-4 pt-2.5 pb-2">
      <div className="flex items-baseline gap-4">
        <h2 className="title txt-20">{figure(sent)} sent</h2>
        {failed > 0 && <span className="font-semibold text-failed">{figure(failed)} failed</span>}
        {unsure > 0 && <span className="font-semibold text-held">{figure(unsure)} unsure</span>}
        {toGo > 0 && <span className="text-pencil">{figure(toGo)} still to go</span>}
        <span role="status" className="sr-only">
          {spoken(live)}
        </span>
        <span className="ml-auto" data-testid="next">
          {lost ? "The connection is lost. Sending goes on in the program; trying to reach it…" : next(live, seconds)}
        </span>
      </div>
      {tally.away && <Absence live={live} />}
      {tally.look_first && (
        <p role="alert" className="mt-1 max-w-[110ch] txt-15 text-held">
          {tally.look_first}
        </p>
      )}
      {tally.line && !over && (
        <p role="alert" className="mt-1 txt-15 text-held">
          This round was confirmed for the line {tally.line.confirmed}, and waits for it; the program sends by {tally.line.now} now.{" "}
          <Button kind="link" onClick={() => tally.line && onLine(tally.line.now, tally.line.texts)}>
            Send {counted(tally.line.texts, "text")} by that one{tally.line.cost ? `, for about ${tally.line.cost}` : ""}
          </Button>
        </p>
      )}
      {tally.slowed && (
        <p role="status" className="mt-1 txt-15 text-held">
          {tally.slowed}.
        </p>
      )}
      <div className="my-2 max-h-[104px] overflow-auto">
        <Strokes strokes={tally.strokes} label="Texts handed over" done={[...tally.strokes].filter((l) => "sfu".includes(l)).length} />
      </div>
      <div className="flex justify-between txt-13 text-ink-2">
        <span data-testid="what-happened">
          {over && <strong className="font-semibold text-ink">{tally.sentence} </strong>}
          {tally.texts_a_stroke === 1 ? "Each stroke is a text." : `Each stroke stands for ${figure(tally.texts_a_stroke)} texts.`}
          {tally.last_leaves && ` Last one leaves at about ${tally.last_leaves}.`}
        </span>
        {!over && <TellMe />}
        <PaceWords desk={desk} row={row} />
      </div>
    </section>
  );
}

/** Why nothing leaves although the round sends, since when, and that no row is lost by it. */
function Absence({ live }: { live: LiveTally }) {
  const { away, stage } = live.tally;
  const seconds = useCountdownTo(away?.looks_in_ms ?? null, live.receivedAt);
  if (!away) return null;
  // Nobody looks again: it is the program's own trouble, and not the carrier's.
  if (!away.since || away.looks_in_ms === null) {
    return (
      <p role="alert" className="mt-1 txt-15 text-failed">
        {away.reason} {away.since && `So it is since ${moment(away.since)}.`} {stage === "sending" && "Sending goes on by itself then."}
      </p>
    );
  }
  const look = seconds === null ? "" : seconds > 0 ? ` The program looks again by itself in ${lasting(seconds)}.` : " Looking again now…";
  return (
    <p role="alert" className="mt-1 txt-15 text-held">
      {sentenceCase(away.reason)}, since {moment(away.since)}. No row is lost by it.{stage === "sending" && look}
    </p>
  );
}

/** What is told to who does not see it: marks and totals, not each second. */
function spoken({ tally }: LiveTally): string {
  const counts = tally.texts.filter((c) => c.rows > 0 && c.mark !== "Going").map((c) => `${figure(c.rows)} ${c.mark.toLowerCase()}`);
  return `${sentenceCase(tally.stage)}: ${counts.join(", ")}. ${tally.away ? tally.away.reason : tally.waits}`;
}

function next({ tally }: LiveTally, seconds: number | null) {
  const row = tally.next ? `row ${figure(tally.next.row)}${tally.next.label ? `, ${tally.next.label}` : ""}` : "";
  if (tally.stage === "paused" && tally.look_first) return "At rest until somebody has looked.";
  if (tally.stage === "paused") return tally.note ? `Paused by the program: ${tally.note}.` : `Paused${row && ` before ${row}`}.`;
  if (tally.stage === "finished") return "Done.";
  if (tally.stage === "stopped") return `Stopped. ${counted(tally.may_take_up, "text")} did not go.`;
  if (tally.sender === "nowhere") return "Nothing leaves at present: no sender runs for this ledger.";
  if (tally.scheduled) return `Scheduled: begins ${tally.scheduled}.`;
  if (tally.away) return row ? `Waiting before ${row}` : "Waiting.";
  if (tally.waits) return tally.waits;
  if (!tally.next) return "Handing over the last one…";
  return (
    <>
      Next in <strong className="font-semibold">{seconds ?? 0} s</strong>: {row}
    </>
  );
}
