import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, sentenceOf, told } from "../../api/client.ts";
import { useUnsent } from "../../state/sending.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button, Key } from "../../ui/Button.tsx";
import { focusSoon } from "../../ui/focus.ts";
import { counted, figure, sentenceCase } from "../../ui/format.ts";
import { useKept } from "../../ui/kept.ts";
import { MarkWord } from "../../ui/Mark.tsx";
import { useTitle } from "../../ui/useTitle.ts";
import { NotKept, WrittenTwice } from "../desk/NotKept.tsx";
import { useCommands } from "../desk/useCommands.ts";
import { useNews } from "../desk/useNews.ts";
import { Release } from "../slip/Release.tsx";
import { SlipPaper } from "../slip/SlipPaper.tsx";
import { REST } from "../wording/rest.ts";
import { LookList } from "./LookList.tsx";
import { RowCells } from "./RowCells.tsx";
import { ToMyself } from "./ToMyself.tsx";
import { STRETCH, useLook, useText, type Order } from "./useLook.ts";

const SendDialog = lazy(() => import("../dock/SendDialog.tsx"));

/** Reading the finished texts before they go, oddest first: one leaf across the window. */
export default function LookPage() {
  const id = Number(useParams()["id"]);
  const go = useNavigate();
  const [order, setOrder] = useKept<Order>(`look/${id}/order`, "odd");
  const [upto, setUpto] = useState(STRETCH);
  const { look, error, refresh, tick } = useLook(id, order, upto);
  const commands = useCommands(id);
  const unsent = useUnsent(id);
  const [chosen, setChosen] = useKept<number | null>(`look/${id}/row`, null);
  const lines = useMemo(() => look?.lines ?? [], [look]);
  const row = lines.some((line) => line.row === chosen) ? chosen : (look?.next_odd ?? lines[0]?.row ?? null);
  const here = lines.findIndex((line) => line.row === row);
  // What was set aside comes once all others were looked at.
  const [aside, setAside] = useKept<number[]>(`look/${id}/aside`, []);
  const ahead = [...lines.slice(here + 1), ...lines.slice(0, Math.max(0, here))].filter((line) => line.odd && !line.seen);
  const oddAhead = ahead.find((line) => !aside.includes(line.row)) ?? ahead[0];
  const asked = useText(id, row, look?.version, [oddAhead?.row, lines[here + 1]?.row]);
  const text = asked.data?.row === row ? asked.data : undefined;
  const shown = text ?? asked.data;
  const changed = useCallback(() => {
    commands.refresh();
    refresh();
  }, [commands, refresh]);
  useNews(id, look?.version ?? Number.MAX_SAFE_INTEGER, changed);
  useTitle(`${look?.title ?? "The round"}: the look`);
  const ready = !!look;
  useEffect(() => {
    if (ready) focusSoon("look list");
  }, [ready]);

  // What was shown is looked at once the eye goes on from it.
  const leave = useCallback(() => {
    if (!text) return;
    tick(text.row);
    void told(
      api.PUT("/api/rounds/{round_id}/look/{number}/seen", {
        params: { path: { round_id: id, number: text.row } },
        body: { fingerprint: text.fingerprint, seen: true },
      }),
    ).then(refresh, refresh);
  }, [text, id, tick, refresh]);
  const choose = useCallback(
    (next: number) => {
      if (next === row) return;
      leave();
      setChosen(next);
    },
    [row, leave, setChosen],
  );
  const nextOdd = useCallback(() => {
    leave();
    const next = oddAhead ?? lines.slice(here + 1).find((line) => !line.seen);
    if (next) setChosen(next.row);
  }, [leave, lines, here, oddAhead, setChosen]);
  const putAside = useCallback(() => {
    if (row === null) return;
    setAside((now) => [...now.filter((each) => each !== row), row]);
    const next = oddAhead ?? lines[here + 1];
    if (next) setChosen(next.row);
  }, [row, setAside, oddAhead, lines, here, setChosen]);
  const back = useCallback(() => {
    leave();
    void go(`/rounds/${id}`);
  }, [leave, go, id]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const from = event.target instanceof Element ? event.target : document.body;
      if (event.key === "Escape" && !event.defaultPrevented && !from.closest("input, [role=dialog], [role=menu]")) back();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [back]);

  const standing = shown?.standing;
  const leftOut = standing?.mark === "Left out";
  const keep = useCallback(
    (change: { left_out?: boolean; released?: boolean; reason?: string }) => {
      if (shown) commands.keep(shown.row, change, refresh);
    },
    [commands, shown, refresh],
  );
  const mend = useCallback(
    (column: string, typed: string, was: string) => {
      if (!shown || typed.trim() === was) return;
      // What was mended is read once more, though it may be odd no more.
      setChosen(shown.row);
      commands.mend(shown.row, column, typed, was, refresh);
    },
    [commands, shown, refresh, setChosen],
  );
  const [trying, setTrying] = useState(false);
  const [sending, setSending] = useState<number | null>(null);
  const toCells = () => document.querySelector<HTMLElement>("[data-cells] [data-cell]")?.focus();
  const actions = useMemo<Action[]>(
    () => [
      { name: "next-odd", label: "Next odd one", keys: ["Space", "Alt n"], perform: nextOdd },
      { name: "aside", label: "Set this row aside: it is not looked at yet, and comes last", keys: ["a", "Alt a"], perform: putAside },
      { name: "leave-out", label: "Leave this row out", keys: ["l", "Alt x"], perform: () => keep({ left_out: true }) },
      { name: "mend", label: "Mend a cell of this row", keys: ["e", "Alt m"], perform: toCells },
      { name: "to-myself", label: "Send this text to myself", keys: ["t", "Alt t"], perform: () => setTrying(true) },
      { name: "order", label: order === "odd" ? "Read by row" : "Read oddest first", keys: ["o", "Alt o"], perform: () => setOrder(order === "odd" ? "row" : "odd") },
      { name: "table", label: "All texts in a table", keys: ["v", "Alt v"], perform: () => void go(`/rounds/${id}/look/texts`) },
      { name: "beside", label: "Beside last time: the amounts of the round before", keys: ["b", "Alt b"], perform: () => void go(`/rounds/${id}/look/beside`) },
      { name: "desk", label: "Back to the desk", perform: back },
    ],
    [nextOdd, putAside, keep, order, setOrder, back, go, id],
  );
  useActions("look", actions);
  const more = useCallback(() => {
    setUpto((now) => (look && look.lines.length >= now && now < look.texts ? now + STRETCH : now));
  }, [look]);

  if (error && !look)
    return (
      <main className="p-8 txt-15">
        <p role="alert" className="text-failed">
          {sentenceOf(error)}
        </p>
        <Button className="mt-3" onClick={() => void go(`/rounds/${id}`)}>
          Back to the desk
        </Button>
      </main>
    );
  const odd = look ? look.odd - look.odd_seen : 0;
  return (
    <>
      <main className="desk">
        <header className="flex items-end gap-3 pb-3">
          <h1 className="title min-w-0 flex-1 truncate txt-25 leading-9">
            {look?.title} <span className="ml-2 txt-18 text-ink-2">the look</span>
          </h1>
          <Button onClick={back}>
            Back to the desk <Key>Esc</Key>
          </Button>
        </header>
        <NotKept round={id} shown={unsent} />
        <div className="mb-2 empty:hidden">
          <WrittenTwice round={id} asked={unsent.asked} />
        </div>
        <div className="look-leaf" aria-busy={!look}>
          <section aria-label="What to read" data-region="look list" className="flex min-h-0 flex-col border-r border-rule-strong">
            <header className="flex items-baseline justify-between border-b border-rule-strong px-3 py-2">
              <button type="button" className="font-semibold hover:underline" title="Change the order (o)" onClick={() => setOrder(order === "odd" ? "row" : "odd")}>
                {order === "odd" ? "Oddest first" : "By row"}
              </button>
              {look && <span className="text-ink-2">{`${figure(look.odd)} odd, ${figure(look.texts - look.odd)} plain`}</span>}
            </header>
            {look?.texts === 0 ? <p className="p-3 text-ink-2">There is no text to read yet.</p> : <LookList lines={lines} row={row} aside={aside} onChoose={choose} onEnd={more} />}
          </section>
          <section aria-label="The text" className={`flex min-h-0 flex-col overflow-auto bg-paper px-11 py-6 ${text || !asked.isFetching ? "" : "stale"}`}>
            {shown && (
              <>
                <div className="mb-2 flex items-baseline gap-2">
                  <h2 className="min-w-0 truncate">
                    <span className="font-semibold">Row {figure(shown.row)}</span>{" "}
                    <span className="text-ink-2">
                      {shown.slip.wording != null && `has the ${shown.slip.wording === REST ? REST : `wording “${shown.slip.wording}”`} · `}
                      {shown.slip.number ? `to ${shown.slip.number}` : shown.slip.number_problem}
                    </span>
                  </h2>
                  <span className="ml-auto shrink-0">
                    <MarkWord mark={shown.standing.mark} />
                  </span>
                </div>
                <div className="look-slip">
                  <SlipPaper slip={shown.slip} />
                </div>
                <div className="mt-3 space-y-1 txt-15">
                  {shown.standing.findings.map((f) => (
                    <p key={f.reason} className={f.holds ? "font-semibold text-held" : "text-held"}>
                      {f.holds && "Held: "}
                      {sentenceCase(f.reason)}. <span className="font-normal text-ink-2">{f.do}</span>{" "}
                      {f.mends.includes("close up") && (
                        <button
                          type="button"
                          className="font-semibold text-ink underline underline-offset-3"
                          onClick={() => look && commands.mendFinding(f.check, "close up", look.version, shown.row, refresh)}
                        >
                          Close the spaces up
                        </button>
                      )}
                    </p>
                  ))}
                  {shown.standing.released != null && <p>Released by hand{shown.standing.released && `: ${shown.standing.released}`}.</p>}
                  <p className="text-ink-2">
                    {shown.differs.length ? `${sentenceCase(shown.differs.join("; "))}.` : shown.slip.whole ? "Otherwise like the others." : ""}
                  </p>
                  {shown.slip.number && (
                    <p className="text-ink-2">
                      {shown.last ? `Last time, on ${shown.last.at} in ${shown.last.title}: “${shown.last.text}”` : "No text went to this number before."}
                    </p>
                  )}
                </div>
                <div className="mt-auto flex flex-wrap items-center gap-2.5 pt-5">
                  <Button onClick={() => keep({ left_out: !leftOut })}>
                    {leftOut ? "Take back" : "Leave out"} {!leftOut && <Key>L</Key>}
                  </Button>
                  <Button onClick={toCells}>
                    Mend a cell <Key>E</Key>
                  </Button>
                  <ToMyself key={`trial ${shown.row}`} id={id} text={shown} open={trying} onOpen={setTrying} />
                  {shown.standing.releasable && <Release key={shown.row} of={`${id}/${shown.row}`} onRelease={(reason) => keep({ released: true, reason })} />}
                  {shown.standing.released != null && (
                    <Button kind="link" onClick={() => keep({ released: false })}>
                      Hold it again
                    </Button>
                  )}
                  {shown.standing.mark === "Ready" && (
                    <Button kind="link" onClick={() => setSending(shown.row)}>
                      Send only this one
                    </Button>
                  )}
                  <Button kind="act" className="ml-auto" onClick={nextOdd}>
                    {oddAhead ? "Next odd one" : "Next one"} <Key>Space</Key>
                  </Button>
                </div>
              </>
            )}
          </section>
          <section aria-label="The row’s cells" data-region="look cells" className="flex min-h-0 flex-col border-l border-rule-strong">
            <header className="border-b border-rule-strong px-3.5 py-2">
              <span className="font-semibold">The row</span> <span className="text-ink-2">what stands in the text is underlined</span>
            </header>
            {shown && <RowCells key={shown.row} cells={shown.cells} onMend={mend} />}
          </section>
        </div>
      </main>
      {sending !== null && (
        <Suspense>
          <SendDialog
            roundId={id}
            rows={[sending]}
            onClose={() => setSending(null)}
            onStarted={(found) => {
              leave();
              commands.seen(found);
              void go(`/rounds/${id}`);
            }}
          />
        </Suspense>
      )}
      <footer className="dock" data-region="look foot">
        <p className="title txt-18" role="status">
          {look && `Looked at ${figure(look.seen)} of ${figure(look.texts)}`}
        </p>
        <p className="text-ink-2">
          {look && look.odd > 0 && (odd ? `${counted(odd, "odd one")} left.` : `All ${figure(look.odd)} odd ones are seen.`)} A changed text asks for
          another look.
        </p>
        <p className="ml-auto flex items-center gap-1.5 text-ink-2">
          <Key>ArrowDown</Key> <Key>ArrowUp</Key> by line <Key>Space</Key> next odd <Key>A</Key> set aside <Key>O</Key> order <Key>V</Key> all in a table <Key>B</Key> beside last time
        </p>
      </footer>
    </>
  );
}
