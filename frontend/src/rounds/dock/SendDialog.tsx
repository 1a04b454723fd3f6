import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, sentenceOf, told, type Tally } from "../../api/client.ts";
import { Button, ConfirmButton } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, moment } from "../../ui/format.ts";
import { SlipPaper } from "../slip/SlipPaper.tsx";

type Props = { roundId: number; onClose: () => void; onStarted: (tally: Tally) => void };

/** The one confirmation: how many, from which line, how long, and three slips. What is shown here is what is locked. */
export default function SendDialog({ roundId, onClose, onStarted }: Props) {
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const asked = useQuery({
    queryKey: ["confirmation", roundId],
    queryFn: () => told(api.GET("/api/rounds/{round_id}/confirmation", { params: { path: { round_id: roundId } } })),
    gcTime: 0,
    staleTime: Infinity,
    refetchOnWindowFocus: false,
  });
  const c = asked.data;
  const start = async () => {
    if (!c || busy) return;
    setBusy(true);
    setTrouble(null);
    try {
      const path = { round_id: roundId };
      onStarted(await told(api.POST("/api/rounds/{round_id}/start", { params: { path }, body: { seal: c.seal } })));
    } catch (error) {
      setTrouble(sentenceOf(error));
      setBusy(false);
      void asked.refetch();
    }
  };
  const kept = c ? [c.held && counted(c.held, "held row"), c.left_out && counted(c.left_out, "row left out", "rows left out")].filter(Boolean) : [];
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={c ? `Send ${counted(c.texts, "text")} from ${c.line}?` : "Send?"}
      about={
        c &&
        `To ${counted(c.numbers, "number")}, in ${counted(c.parts, "part")}${c.cost ? `, about ${c.cost}` : ""}. It takes about ${c.lasting}: the last one leaves at about ${moment(c.last_leaves_at)}. Numbers and texts are locked as they stand now. A text that went cannot be taken back; Pause and Stop keep the others.`
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
          {kept.length > 0 && <p className="mt-4 text-held">Not sent: {kept.join(" and ")}.</p>}
        </>
      )}
      {trouble && (
        <p role="alert" className="mt-4 txt-15 text-failed">
          {trouble}
        </p>
      )}
      <div className="mt-5 flex justify-end gap-3">
        <Button data-first onClick={onClose} className="txt-15">
          Cancel
        </Button>
        <ConfirmButton disabled={!c || c.texts === 0 || busy} onClick={() => void start()}>
          {c ? `Send ${counted(c.texts, "text")} now` : "Send"}
        </ConfirmButton>
      </div>
    </Dialog>
  );
}
