import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useNavigate } from "react-router";
import { api, sentenceOf, told, type RoundInList } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { counted, dayOf, figure } from "../../ui/format.ts";
import { MarkWord } from "../../ui/Mark.tsx";
import { BringIn } from "./BringIn.tsx";

const STAGES: Record<RoundInList["stage"], string> = {
  preparing: "Being prepared",
  sending: "Sending now",
  paused: "Paused",
  stopped: "Stopped",
  finished: "Finished",
};

export function RoundsPage() {
  const go = useNavigate();
  const rounds = useQuery({ queryKey: ["rounds"], queryFn: () => told(api.GET("/api/rounds")), refetchInterval: 5000 });
  const actions = useMemo<Action[]>(
    () =>
      (rounds.data ?? []).map((r) => ({
        name: `round-${r.id}`,
        label: `Open the round ${r.title}`,
        perform: () => void go(`/rounds/${r.id}`),
      })),
    [rounds.data, go],
  );
  useActions("rounds", actions);
  return (
    <main className="min-h-0 flex-1 overflow-auto px-5 pt-4 pb-8">
      <h1 className="title text-[26px]">Rounds</h1>
      <p className="text-ink-2">One sheet, one wording, one pace: the texts that go out together.</p>
      <div className="mt-4 grid grid-cols-[1fr_404px] items-start gap-3.5">
        <section aria-label="All rounds" className="rounded-[3px] border border-rule-strong bg-leaf">
          {rounds.isError && (
            <p role="alert" className="p-5 text-[15px] text-failed">
              {sentenceOf(rounds.error)}
            </p>
          )}
          {rounds.isPending && <p className="p-5 text-[15px] text-ink-2">Opening the ledger…</p>}
          {rounds.data?.length === 0 && (
            <p className="p-5 text-[15px] text-ink-2">
              There is no round yet. Bring in a sheet on the right: its rows become texts, and nothing is sent before you
              say so.
            </p>
          )}
          {!!rounds.data?.length && <Table rounds={rounds.data} />}
        </section>
        <BringIn rounds={rounds.data ?? []} />
      </div>
    </main>
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
              <Link to={`/rounds/${r.id}`} className="title text-[17px] hover:underline">
                {r.title}
              </Link>
              <div className="text-[13px] text-ink-2">{r.file_name}</div>
            </td>
            <td className="px-4 py-3">
              {STAGES[r.stage]}
              <div className="flex flex-wrap gap-x-4 text-[13px]">
                {r.counts.map((c) => (
                  <MarkWord key={c.mark} mark={c.mark}>{`${figure(c.rows)} ${c.mark.toLowerCase()}`}</MarkWord>
                ))}
              </div>
            </td>
            <td className="px-4 py-3 text-right" aria-label={counted(r.rows, "row")}>
              {figure(r.rows)}
            </td>
            <td className="px-4 py-3 whitespace-nowrap text-ink-2">{dayOf(r.created_at)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
