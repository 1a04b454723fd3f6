import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, sentenceOf, told, Trouble, type Looked, type Trials } from "../../api/client.ts";
import { useDraft } from "../../state/useDraft.ts";
import { Button, ConfirmButton, Key } from "../../ui/Button.tsx";
import { clockSeconds, counted, figure, sentenceCase } from "../../ui/format.ts";
import { MarkWord } from "../../ui/Mark.tsx";
import { Popover } from "../../ui/Popover.tsx";

/** How often a trial that is on its way is looked after, in ms. */
const LOOKS_EVERY = 700;
const SHOWN = 5;
const onItsWay = (trials: Trials | undefined): boolean => !!trials?.trials.some((trial) => ["To go", "Going"].includes(trial.mark));

type Props = { id: number; text: Looked; open: boolean; onOpen: (open: boolean) => void };

/** A row's real text to a number of the clerk's own, and what became of those that were sent before. */
export function ToMyself({ id, text, open, onOpen }: Props) {
  return (
    <Popover
      label="One to myself"
      side="top"
      width="w-96"
      open={open}
      onOpenChange={onOpen}
      trigger={
        <Button>
          One to myself <Key>T</Key>
        </Button>
      }
    >
      <Trial id={id} text={text} />
    </Popover>
  );
}

function Trial({ id, text }: Pick<Props, "id" | "text">) {
  const queries = useQueryClient();
  const params = { path: { round_id: id } };
  const { data } = useQuery({
    queryKey: ["trials", id],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/trials", { signal, params })),
    staleTime: 0,
    refetchInterval: ({ state }) => (onItsWay(state.data) ? LOOKS_EVERY : false),
  });
  const [typed, setTyped] = useDraft<string | null>("own number", null);
  const [trouble, setTrouble] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const [sent, setSent] = useState("");
  const number = typed ?? data?.own ?? "";
  const { parts, cost } = text.slip;
  const asksWhose = trouble instanceof Trouble && trouble.kind === "whose number";
  const send = async (sure: boolean) => {
    if (busy) return;
    setBusy(true);
    setTrouble(null);
    try {
      const body = { row: text.row, number, fingerprint: text.fingerprint, sure };
      queries.setQueryData(["trials", id], await told(api.POST("/api/rounds/{round_id}/trials", { params, body })));
      setSent(`${number}/${text.fingerprint}`);
    } catch (error) {
      setTrouble(error);
    }
    setBusy(false);
  };
  /** Enter sends, as the button does, or says why it does not; a number that stands in a sheet is asked about by its own button. */
  const sendOrSay = () => {
    if (busy || asksWhose) return;
    if (sent === `${number}/${text.fingerprint}`) setTrouble(new Trouble("This one went already: the button hands another one over.", "sent already"));
    else if (!number.trim()) setTrouble(new Trouble("Type your own mobile number first.", "no number"));
    else void send(false);
  };
  return (
    <div className="space-y-2.5">
      <p className="txt-15">
        <span className="font-semibold">Row {figure(text.row)}’s text as it stands</span>
        {`, in ${counted(parts.length, "part")}${cost ? `, ${cost}` : ""}. It is a trial: it stands in no row’s history, and leaves by the line and at the pace of the round.`}
      </p>
      <label className="block">
        <span className="label">Your own mobile number</span>
        <input
          type="tel"
          data-first
          value={number}
          onChange={(e) => {
            setTyped(e.target.value);
            setTrouble(null);
          }}
          onKeyDown={(e) => e.key === "Enter" && !e.repeat && sendOrSay()}
          className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 tabular-nums"
        />
      </label>
      {trouble !== null && (
        <p role="alert" className={asksWhose ? "text-held" : "text-failed"}>
          {sentenceOf(trouble)}
        </p>
      )}
      <div className="flex items-center gap-3">
        {asksWhose ? (
          <ConfirmButton onClick={() => void send(true)}>
            It is my own: send it
          </ConfirmButton>
        ) : (
          // While it is asked for the button keeps the hand, which would be nowhere otherwise.
          <ConfirmButton disabled={!number.trim() || data?.left === 0} onClick={() => void send(false)}>
            Send this text to me
          </ConfirmButton>
        )}
        {data && <span className="text-pencil">{data.left} to yourself left</span>}
      </div>
      {!!data?.trials.length && (
        <ul aria-label="Trials so far" aria-live="polite" className="border-t border-rule pt-2">
          {data.trials.slice(0, SHOWN).map((trial) => (
            <li key={trial.id} className="flex gap-2">
              <span className="shrink-0 text-ink-2">
                Row {figure(trial.row)} to {trial.number}
              </span>
              <span className="ml-auto min-w-0 truncate" title={trial.reason}>
                <MarkWord mark={trial.mark}>{trial.mark === "To go" ? "waits its turn" : `${trial.mark} ${clockSeconds(trial.at)}`}</MarkWord>
              </span>
            </li>
          ))}
          {data.trials[0]?.reason && <li className="text-held">{sentenceCase(data.trials[0].reason)}.</li>}
        </ul>
      )}
    </div>
  );
}
