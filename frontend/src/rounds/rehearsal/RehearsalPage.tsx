import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";
import { useNavigate, useParams } from "react-router";
import { api, sentenceOf, told, type Rehearsed } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button, Key } from "../../ui/Button.tsx";
import { focusSoon } from "../../ui/focus.ts";
import { clockSeconds, counted, figure, sentenceCase } from "../../ui/format.ts";
import { MarkWord } from "../../ui/Mark.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { useTitle } from "../../ui/useTitle.ts";
import { Strokes } from "../tally/Strokes.tsx";
import { rehearsalKey, useRehearsal } from "./useRehearsal.ts";

/** The whole round to the stand-in carrier within the program: seen before it is real, and leaving nothing behind. */
export default function RehearsalPage() {
  const id = Number(useParams()["id"]);
  const go = useNavigate();
  const queries = useQueryClient();
  const notices = useNotices();
  const { data, error } = useRehearsal(id);
  const shown = data?.rehearsal ?? null;
  const running = shown?.stage === "running";
  useTitle(`${data?.title ?? "The round"}: rehearsal${shown ? `, ${shown.stage}` : ""}`);
  const there = !!data;
  useEffect(() => {
    if (there) focusSoon("rehearsal");
  }, [there, running]);
  const ask = useCallback(
    (what: "" | "/stop") => {
      const params = { path: { round_id: id } };
      void told(what ? api.POST("/api/rounds/{round_id}/rehearsal/stop", { params }) : api.POST("/api/rounds/{round_id}/rehearsal", { params }))
        .then((found) => queries.setQueryData([...rehearsalKey(id), ""], found))
        .catch(notices.trouble)
        .finally(() => void queries.invalidateQueries({ queryKey: rehearsalKey(id) }));
    },
    [id, queries, notices],
  );
  const back = useCallback(() => void go(`/rounds/${id}`), [go, id]);
  const actions = useMemo<Action[]>(
    () => [
      { name: "desk", label: "Back to the desk", keys: ["Escape"], perform: back },
      { name: "rehearse", label: "Begin the rehearsal", enabled: there && !running, perform: () => ask("") },
      { name: "stop-rehearsal", label: "Stop the rehearsal", enabled: running, perform: () => ask("/stop") },
    ],
    [back, there, running, ask],
  );
  useActions("rehearsal", actions);
  return (
    <main className="desk">
      <header className="flex items-end gap-3 pb-3">
        <h1 className="title min-w-0 flex-1 truncate txt-25 leading-9">
          {data?.title} <span className="ml-2 txt-18 text-ink-2">rehearsal</span>
        </h1>
        <Button onClick={back}>
          Back to the desk <Key>Esc</Key>
        </Button>
      </header>
      {error && !data && (
        <p role="alert" className="txt-15 text-failed">
          {sentenceOf(error)}
        </p>
      )}
      {!data && !error && <p className="txt-15 text-ink-2">Computing every row…</p>}
      {data && (
        <section aria-label="Rehearsal" data-region="rehearsal" className="rehearsal-leaf">
          <p className="border-b border-dashed border-pencil-stroke px-5 py-2.5 txt-15">
            <strong className="font-semibold">Nothing leaves this machine.</strong> A stand-in carrier within the program takes the texts, {figure(data.faster)} times as
            fast as the pace. No row gets a mark by it, and no line is used.
          </p>
          {shown ? (
            <Shown rehearsal={shown} />
          ) : (
            <div className="px-5 py-6 txt-15">
              <p>{data.kept ?? "This round was not rehearsed yet."}</p>
              <p className="mt-2 text-ink-2">
                {data.ready ? `${counted(data.ready, "text is", "texts are")} ready: at the pace they take ${data.lasting}.` : "No row is ready: see what holds them on the desk."}
              </p>
            </div>
          )}
          <footer className="mt-auto flex items-center gap-3 border-t border-rule-strong px-5 py-3">
            <p role="status" className="min-w-0 flex-1 text-ink-2">
              {shown && !running && data.kept}
            </p>
            {running ? (
              <Button data-first onClick={() => ask("/stop")}>
                Stop the rehearsal
              </Button>
            ) : (
              <Button data-first kind={shown ? "plain" : "act"} aria-disabled={data.ready === 0} onClick={() => data.ready > 0 && ask("")}>
                {shown ? `Rehearse ${counted(data.ready, "text")} again` : `Rehearse ${counted(data.ready, "text")}`}
              </Button>
            )}
          </footer>
        </section>
      )}
    </main>
  );
}

const ENDED: Record<string, string> = { finished: "Rehearsed to the last text.", stopped: "Stopped before its end.", paused: "Paused by itself, as the round would have been." };

/** The tally of a rehearsal, and the texts that the stand-in did not take. */
function Shown({ rehearsal }: { rehearsal: Rehearsed }) {
  const n = (mark: string) => rehearsal.texts.find((c) => c.mark === mark)?.rows ?? 0;
  const [sent, failed, unsure, toGo] = [n("Sent"), n("Failed"), n("Unsure"), n("To go") + n("Going")];
  const running = rehearsal.stage === "running";
  return (
    <>
      <div className="px-5 py-3">
        <div className="flex items-baseline gap-4">
          <h2 className="title txt-20">{figure(sent)} taken</h2>
          {failed > 0 && <span className="font-semibold text-failed">{figure(failed)} failed</span>}
          {unsure > 0 && <span className="font-semibold text-held">{figure(unsure)} unsure</span>}
          {toGo > 0 && <span className="text-pencil">{running ? `${figure(toGo)} still to go` : `${figure(toGo)} not reached`}</span>}
          <span className="ml-auto text-ink-2" role="status">
            {running ? "Rehearsing…" : ENDED[rehearsal.stage]} By the pace {rehearsal.lasted}.
          </span>
        </div>
        <div className="my-2 max-h-[200px] overflow-auto">
          <Strokes strokes={rehearsal.strokes} label="Texts rehearsed" done={[...rehearsal.strokes].filter((l) => "sfu".includes(l)).length} />
        </div>
        <p className="txt-13 text-ink-2">
          {rehearsal.texts_a_stroke === 1 ? "Each stroke is a text." : `Each stroke stands for ${figure(rehearsal.texts_a_stroke)} texts.`}
        </p>
        {rehearsal.note && <p className="mt-1 txt-15 text-held">{sentenceCase(rehearsal.note)}.</p>}
      </div>
      <div className="flex min-h-0 flex-1 flex-col border-t border-rule">
        {rehearsal.not_taken.length > 0 && (
          <>
            <h2 className="label px-5 pt-2">Not taken by the stand-in</h2>
            <Texts label="Texts that were not taken" texts={rehearsal.not_taken} most="max-h-40" />
            <p className="border-b border-rule px-5 pb-2 txt-13 text-ink-2">
              Only numbers reserved for fiction are refused here, to show what that looks like. What a real carrier says of a number cannot be known beforehand.
            </p>
          </>
        )}
        <h2 className="label px-5 pt-2">Handed over last, at the times of the pace</h2>
        <Texts label="Texts handed over last" texts={rehearsal.latest} most="flex-1" />
      </div>
    </>
  );
}

function Texts({ label, texts, most }: { label: string; texts: Rehearsed["latest"]; most: string }) {
  return (
    <ul tabIndex={0} aria-label={label} className={`min-h-0 overflow-auto px-5 pb-2 ${most}`}>
      {texts.map((text) => (
        <li key={text.row} className="grid grid-cols-[4.4rem_3rem_5rem_11rem_8rem_minmax(0,1fr)] gap-3 border-b border-rule py-1">
          <span className="text-ink-2 tabular-nums">{clockSeconds(text.at)}</span>
          <span className="text-right text-ink-2 tabular-nums">{figure(text.row)}</span>
          <MarkWord mark={text.mark}>{text.mark === "Sent" ? "taken" : text.mark}</MarkWord>
          <span className="truncate" title={text.label}>
            {text.label}
          </span>
          <span className="text-ink-2 tabular-nums">{text.number}</span>
          <span className={`truncate ${text.reason ? "text-held" : ""}`} title={text.reason || text.text}>
            {sentenceCase(text.reason) || text.text}
          </span>
        </li>
      ))}
    </ul>
  );
}
