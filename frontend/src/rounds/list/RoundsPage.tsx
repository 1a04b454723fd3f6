import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { Link, useNavigate } from "react-router";
import { api, sentenceOf, told, type RoundInList } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";
import { clock, counted, dayOf, figure, sentenceCase } from "../../ui/format.ts";
import { MarkWord } from "../../ui/Mark.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { useTitle } from "../../ui/useTitle.ts";
import { beginnerUntil } from "../desk/beginner.ts";
import { Strokes } from "../tally/Strokes.tsx";
import { BringIn } from "./BringIn.tsx";
import { Copies, OtherLedgers } from "./Copies.tsx";

const STAGES: Record<RoundInList["stage"], string> = {
  preparing: "Being prepared",
  sending: "Sending now",
  paused: "Paused",
  stopped: "Stopped",
  finished: "Finished",
};

export function RoundsPage() {
  useTitle("Rounds");
  const go = useNavigate();
  const rounds = useQuery({ queryKey: ["rounds"], queryFn: () => told(api.GET("/api/rounds")), refetchInterval: 5000 });
  const actions = useMemo<Action[]>(
    () =>
      (rounds.data ?? []).map((r) => ({
        name: `round-${r.id}`,
        label: `Open the round ${r.title} (no. ${r.id}, ${dayOf(r.created_at)})`,
        perform: () => void go(`/rounds/${r.id}`),
      })),
    [rounds.data, go],
  );
  useActions("rounds", actions);
  return (
    <main className="min-h-0 flex-1 overflow-auto px-5 pt-4 pb-8">
      <h1 className="title txt-26">Rounds</h1>
      <p className="text-ink-2">One sheet, one wording, one pace: the texts that go out together.</p>
      <Notices />
      <div className="mt-4 grid items-start gap-3.5 lg:grid-cols-[1fr_404px]">
        <section aria-label="All rounds" data-region="rounds" className="rounded-[3px] border border-rule-strong bg-leaf">
          {rounds.isError && (
            <p role="alert" className="p-5 txt-15 text-failed">
              {sentenceOf(rounds.error)}
            </p>
          )}
          {rounds.isPending && <p className="p-5 txt-15 text-ink-2">Opening the ledger…</p>}
          {rounds.data?.length === 0 && <HowToBegin />}
          {!!rounds.data?.length && <Table rounds={rounds.data} />}
          <Removed />
        </section>
        <BringIn rounds={rounds.data ?? []} />
      </div>
      <OtherLedgers />
      <Copies />
    </main>
  );
}

/** What of the ledger as a whole has to be looked at, until somebody says that this was done. */
function Notices() {
  const queries = useQueryClient();
  const say = useNotices();
  const { data } = useQuery({ queryKey: ["notices"], queryFn: () => told(api.GET("/api/notices")), refetchInterval: 5000 });
  const seen = (notice: number) =>
    void told(api.POST("/api/notices/{notice}/seen", { params: { path: { notice } } }))
      .catch(say.trouble)
      .then(() => queries.invalidateQueries({ queryKey: ["notices"] }));
  if (!data?.length) return null;
  return (
    <section aria-label="To be looked at" className="mt-3 rounded-[3px] border border-rule-strong bg-leaf px-4 py-2.5">
      {data.map((n) => (
        <p key={n.id} role="alert" className="txt-15 text-held">
          {n.sentence}{" "}
          <Button kind="link" onClick={() => seen(n.id)}>
            I have looked
          </Button>
        </p>
      ))}
    </section>
  );
}

/** How to begin with one's own sheet; it stands here for as long as there is no round. */
function HowToBegin() {
  useEffect(() => beginnerUntil("the first desk"), []);
  return (
    <div className="p-5 txt-15">
      <p className="title txt-19">No round yet</p>
      <ol className="mt-2 list-decimal space-y-1.5 pl-5 text-ink-2">
        <li>
          <b className="text-ink">Bring in your sheet.</b> One row for each text, the names of the columns in the first line,
          one column with mobile numbers. Drop the file anywhere here, or copy the cells and press Ctrl+V.
        </li>
        <li>
          <b className="text-ink">Write the text once,</b> with the columns in it: Hello {"{First name}"}, …
        </li>
        <li>
          <b className="text-ink">Read the slips.</b> What is doubtful is held, and says why.
        </li>
        <li>
          <b className="text-ink">Send at your pace.</b> Nothing goes before you press a button that says how many texts go.
        </li>
      </ol>
      <p className="mt-3 text-ink-2">A sample sheet to try it with can be downloaded beside.</p>
    </div>
  );
}

/** Rounds that were removed lately, each with the way back. */
function Removed() {
  const queries = useQueryClient();
  const notices = useNotices();
  const { data } = useQuery({ queryKey: ["rounds", "removed"], queryFn: () => told(api.GET("/api/rounds/removed")) });
  const back = (id: number) =>
    void told(api.POST("/api/rounds/{round_id}/restore", { params: { path: { round_id: id } } }))
      .catch(notices.trouble)
      .then(() => queries.invalidateQueries({ queryKey: ["rounds"] }));
  if (!data?.length) return null;
  return (
    <section aria-label="Removed lately" className="border-t border-rule-strong px-4 py-2 text-ink-2">
      <h2 className="label">Removed lately</h2>
      <ul>
        {data.map((r) => (
          <li key={r.id} className="flex justify-between gap-3 py-0.5">
            <span className="truncate">
              {r.title}, no. {r.id}, {counted(r.rows, "row")}
            </span>
            <Button kind="link" onClick={() => back(r.id)}>
              Bring it back
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Table({ rounds }: { rounds: RoundInList[] }) {
  return (
    <table className="w-full border-collapse text-left">
      <thead>
        <tr className="border-b border-rule-strong text-ink-2">
          <th className="px-4 py-2.5 font-semibold">Round</th>
          <th className="px-4 py-2.5 font-semibold">Where it stands</th>
          <th className="px-4 py-2.5 text-right font-semibold">Rows</th>
          <th className="px-4 py-2.5 font-semibold">Brought in</th>
        </tr>
      </thead>
      <tbody>
        {rounds.map((r) => (
          <tr key={r.id} className="border-b border-rule last:border-0 hover:bg-chosen">
            <td className="px-4 py-3">
              <Link to={`/rounds/${r.id}`} className="title txt-17 hover:underline">
                {r.title}
              </Link>
              <div className="txt-13 text-ink-2">
                No. {r.id} · {r.file_name}
              </div>
            </td>
            <td className="px-4 py-3">
              {r.says ? sentenceCase(r.says) : STAGES[r.stage]}
              {r.strokes && <Strokes small strokes={r.strokes} label={`${r.title}, so far`} done={[...r.strokes].filter((l) => "sfu".includes(l)).length} />}
              <div className="flex flex-wrap gap-x-4 txt-13">
                {r.counts.map((c) => (
                  <MarkWord key={c.mark} mark={c.mark}>{`${figure(c.rows)} ${c.mark.toLowerCase()}`}</MarkWord>
                ))}
              </div>
            </td>
            <td className="px-4 py-3 text-right" aria-label={counted(r.rows, "row")}>
              {figure(r.rows)}
            </td>
            <td className="px-4 py-3 whitespace-nowrap text-ink-2">{dayOf(r.created_at)}, {clock(r.created_at)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
