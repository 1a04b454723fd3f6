import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, sentenceOf, told, type Confirmation, type Tally } from "../../api/client.ts";
import { Button, ConfirmButton } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, figure, moment } from "../../ui/format.ts";
import { leavingSaid } from "./leaving.ts";
import { SlipPaper } from "../slip/SlipPaper.tsx";

type Props = {
  roundId: number;
  /** The rows that are chosen; null for all. */
  rows: number[] | null;
  /** Whether others of the round went already: then the texts were locked when sending began. */
  later?: boolean;
  onClose: () => void;
  onRead?: () => void;
  onStarted: (tally: Tally) => void;
};

const shares = (all: { name: string; texts: number }[]): string =>
  all
    .slice(0, 4)
    .map(({ name, texts }) => `${name} ${figure(texts)}`)
    .join(", ") + (all.length > 4 ? ` and ${all.length - 4} more` : "");

/** The one confirmation: how many, from which line, how long, and three slips. What is shown here is what is locked. */
export default function SendDialog({ roundId, rows, later = false, onClose, onRead, onStarted }: Props) {
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [allTheSame, setAllTheSame] = useState(false);
  const asked = useQuery({
    queryKey: ["confirmation", roundId, rows, allTheSame],
    queryFn: () => told(api.POST("/api/rounds/{round_id}/confirmation", { params: { path: { round_id: roundId } }, body: { rows, all_the_same: allTheSame } })),
    placeholderData: (kept) => kept,
    gcTime: 0,
    staleTime: Infinity,
    refetchOnWindowFocus: false,
  });
  const c = asked.data;
  const current = !asked.isPlaceholderData;
  const start = async () => {
    if (!c || !current || busy) return;
    setBusy(true);
    setTrouble(null);
    try {
      const params = { path: { round_id: roundId } };
      onStarted(
        await told(
          later
            ? api.POST("/api/rounds/{round_id}/again", { params, body: { which: "ready", rows, texts: c.texts, seal: c.seal, looked: true, all_the_same: allTheSame } })
            : api.POST("/api/rounds/{round_id}/start", { params, body: { seal: c.seal, rows } }),
        ),
      );
    } catch (error) {
      setTrouble(sentenceOf(error));
      setBusy(false);
      void asked.refetch();
    }
  };
  const what = rows ? "chosen text" : "text";
  const verb = c?.ahead.scheduled ? "Schedule" : "Send";
  const locked = c?.locked_at ? `Numbers and texts are those that were locked on ${moment(c.locked_at)}; none of them was sent before.` : "Numbers and texts are locked as they stand now.";
  const kept = c ? [c.held && counted(c.held, "held row"), c.left_out && counted(c.left_out, "row left out", "rows left out")].filter(Boolean) : [];
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={c ? `${verb} ${counted(c.texts, what)} from ${c.line}?` : "Send?"}
      about={
        c &&
        `To ${counted(c.numbers, "number")}, in ${counted(c.parts, "part")}${c.cost ? `, about ${c.cost}` : ""}. ${leavingSaid(c.ahead)} ${locked} A text that went cannot be taken back; Pause and Stop keep the others.`
      }
    >
      {asked.isPending && <p className="mt-4 txt-15">Computing every row…</p>}
      {asked.isError && (
        <p role="alert" className="mt-4 txt-15 text-failed">
          {sentenceOf(asked.error)}
        </p>
      )}
      {c && (
        <>
          <div className="mt-5 grid items-start gap-4 md:grid-cols-3">
            {c.slips.map((s) => (
              <figure key={s.why}>
                <figcaption className="mb-1 txt-13 text-ink-2">
                  <span className="font-semibold">{s.why}</span>: row {s.slip.row}, {s.slip.label} {s.slip.number}
                </figcaption>
                <SlipPaper slip={s.slip} small />
              </figure>
            ))}
          </div>
          <ul className="mt-4 space-y-0.5 txt-15" aria-label="Before they go">
            {c.look_first && <li className="font-semibold text-held">{c.look_first}</li>}
            {c.past > 0 && (
              <li className="font-semibold text-held">
                {counted(c.past, "of these texts was", "of these texts were")} handed over already, after the copy of the ledger was made that was put back.{" "}
                {c.past === 1 ? "It is" : "They are"} asked about, and not sent.
              </li>
            )}
            {c.passed_over.length > 0 && (
              <li>
                To the numbers in {c.numbers_from}; not to those in {c.passed_over.join(", ")}.
              </li>
            )}
            {c.countries.length > 1 && <li>To numbers of {shares(c.countries)}.</li>}
            {c.wordings.length > 1 && <li>Wordings: {shares(c.wordings)}.</li>}
            {kept.length > 0 && (
              <li className="text-held">
                Not sent{rows && ", though chosen"}: {kept.join(" and ")}.
              </li>
            )}
            {c.given_way > 0 && (
              <li className="text-held">
                {counted(c.given_way, "text is", "texts are")} not sent: another round sent the same words since, or no more texts were asked for.
              </li>
            )}
            {c.superseded > 0 && (
              <li className="text-held">
                <label className="flex items-baseline gap-2">
                  <input type="checkbox" checked={allTheSame} onChange={(e) => setAllTheSame(e.target.checked)} />
                  <span>
                    Another round texted about {figure(c.superseded)} of them since, perhaps in place of {c.superseded === 1 ? "this text" : "these texts"}. Send{" "}
                    {c.superseded === 1 ? "it" : "them"} all the same.
                  </span>
                </label>
              </li>
            )}
            {c.ahead.doubts.map((doubt) => (
              <li key={doubt} className="font-semibold text-held">
                {doubt}
              </li>
            ))}
            {c.waiting > 0 && <li>{counted(c.waiting, "further text stays", "further texts stay")} ready, locked as they are, and can be sent later.</li>}
            {c.rehearsed && <li className="text-ink-2">{c.rehearsed}</li>}
            {!later && <li className={c.unseen_odd ? "font-semibold text-held" : "text-ink-2"}>{readSoFar(c)}</li>}
          </ul>
        </>
      )}
      {trouble && (
        <p role="alert" className="mt-4 txt-15 text-failed">
          {trouble}
        </p>
      )}
      <div className="dialog-foot">
        <Link to="/good-practice" className="mr-auto text-ink-2 underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
          What is good practice when texting people
        </Link>
        {!!c?.unseen_odd && onRead && (
          <Button onClick={onRead} className="txt-15">
            Read {c.unseen_odd === 1 ? "the odd one" : `the ${figure(c.unseen_odd)} odd ones`} first
          </Button>
        )}
        <Button data-first onClick={onClose} className="txt-15">
          Cancel
        </Button>
        <ConfirmButton disabled={!c || !current || c.texts === 0 || busy} onClick={() => void start()}>
          {c ? `${verb} ${counted(c.texts, what)}${c.ahead.scheduled ? "" : " now"}` : "Send"}
        </ConfirmButton>
      </div>
    </Dialog>
  );
}

/** How far the texts that go were read, in a sentence. */
function readSoFar(c: Confirmation): string {
  const changed = c.changed ? ` ${counted(c.changed, "text")} changed since ${c.changed === 1 ? "it was" : "they were"} looked at.` : "";
  if (!c.unseen) return "Every text was looked at as it is.";
  if (c.unseen_odd === c.odd && c.unseen === c.texts) return `Nobody has looked at any of these texts yet; ${figure(c.odd)} of them ${c.odd === 1 ? "is" : "are"} odd.`;
  if (c.unseen_odd) return `Nobody has looked at ${figure(c.unseen_odd)} of ${counted(c.odd, "odd one")}, nor at ${figure(c.unseen - c.unseen_odd)} of the others.${changed}`;
  const odd = c.odd ? "All odd ones were looked at; nobody" : "Nobody";
  return `${odd} has looked at ${figure(c.unseen)} of ${counted(c.texts, "text")}.${changed}`;
}
