import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, told, Trouble, type Desk } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { outbox, useUnsent } from "../../state/sending.ts";
import { Button } from "../../ui/Button.tsx";
import { focusRegion, focusSoon } from "../../ui/focus.ts";
import { figure } from "../../ui/format.ts";
import { useNotices } from "../../ui/notices.tsx";
import { useTitle } from "../../ui/useTitle.ts";
import type { Blocks } from "../grid/useBlocks.ts";
import { useRowForecast } from "../dock/useForecast.ts";
import { SlipPanel } from "../slip/SlipPanel.tsx";
import { byRow } from "../grid/cells.ts";
import { useChosen } from "../grid/useChosen.ts";
import { HeldBack } from "../tally/HeldBack.tsx";
import { Settle, type Again } from "../tally/Settle.tsx";
import { StillReady } from "../tally/StillReady.tsx";
import { StopButton } from "../tally/StopButton.tsx";
import { TallyPanel } from "../tally/TallyPanel.tsx";
import { useTally } from "../tally/useTally.ts";
import { Dropped } from "./Dropped.tsx";
import { Heading } from "./Heading.tsx";
import { SaveMenu } from "./SaveMenu.tsx";
import { SheetPaper } from "./SheetPaper.tsx";
import { UndoButtons } from "./UndoButtons.tsx";
import { NotHereDialog } from "./NotHereDialog.tsx";
import { NotKept, WrittenTwice } from "./NotKept.tsx";
import { useLeft } from "./useLeft.ts";
import { useCommands, type NotHere } from "./useCommands.ts";
import { useDeskState } from "./useDeskState.ts";
import { useEndedFilter } from "./useEndedFilter.ts";
import { useRow } from "./useRow.ts";
import { useRowActions } from "./useRowActions.ts";
import { useRowFinder } from "./useRowFinder.ts";

const SendDialog = lazy(() => import("../dock/SendDialog.tsx"));

const nothing = () => undefined;
const ONE_AT_A_TIME = new Trouble("Since sending began one cell is changed at a time. Choose a single cell of a row that did not go.", "one at a time");

/** The desk of a round that was started: what became of each row, and what can still be done about it. */
export function SendDesk({ desk }: { desk: Desk }) {
  const [state, dispatch] = useDeskState(desk);
  const [asking, setAsking] = useState<Again | null>(null);
  const search = useRef<HTMLInputElement>(null);
  const notices = useNotices();
  const commands = useCommands(desk.id);
  const { live, lost } = useTally(desk.id);
  const tally = live?.tally;
  // The marks move while texts go out; the rows in sight are asked for again with each entry of the ledger.
  const stamp = tally ? `${Math.max(tally.version, desk.version)}/${tally.entry}` : String(desk.version);
  const { refresh } = commands;
  useEffect(() => {
    if (tally && tally.version > desk.version) refresh();
  }, [tally, desk.version, refresh]);
  const line = tally ? `${tally.version}/${tally.away ? "away" : ""}/${tally.slowed}` : String(desk.version);
  const leaves = useRowForecast(desk.id, state.row, line, tally?.stage === "sending").data ?? null;
  const { slip, standing } = useRow(desk.id, state.row, stamp);
  const choosing = useChosen(desk, stamp);
  const [sending, setSending] = useState<number[] | "all" | null>(null);

  const active = tally?.stage === "sending" || tally?.stage === "paused";
  const over = tally?.stage === "finished" || tally?.stage === "stopped";
  const going = active ? "in progress" : over ? "over" : "unknown";
  const looksFirst = !!tally?.look_first;
  // What is likely to be used next has the focus: Pause while texts go out, then what is to be settled, or the marked sheet.
  const first = useRef(true);
  useEffect(() => {
    if (going === "unknown") return;
    // Whoever is doing something else by then is left alone.
    if (first.current || !document.activeElement?.closest("[role=menu], [role=dialog], [role=grid], [data-region=slip]"))
      // What has to be looked at first does not go on by a key that was meant for something else.
      focusSoon(looksFirst || going === "over" ? "settle" : "heading", ...(looksFirst ? ["sheet"] : ["held back", "heading"]));
    first.current = false;
  }, [going, looksFirst]);
  const n = (mark: string) => tally?.texts.find((c) => c.mark === mark)?.rows ?? 0;
  const all = tally?.texts.reduce((sum, c) => sum + (["Ready", "Held", "Left out"].includes(c.mark) ? 0 : c.rows), 0) ?? 0;
  const view = tally ? `${tally.stage}, ${figure(n("Sent"))} of ${figure(all)} sent${n("Failed") ? `, ${figure(n("Failed"))} failed` : ""}` : desk.stage;
  useTitle(`${desk.title}: ${view}`);
  useEndedFilter(state.filter, desk, tally?.counts ?? desk.counts, dispatch);

  const mayTry = over && (tally.may_try_again > 0 || tally.may_take_up > 0);
  const pausing = tally?.stage === "sending" ? "pause" : "go-on";
  const rows = useRowActions(desk.rows, dispatch, search);
  const own = useMemo<Action[]>(
    () => [
      ...rows,
      {
        // A key can pause. Going on sends texts, and no key does that.
        name: "pause",
        label: pausing === "pause" ? "Pause" : "Go to the button that goes on",
        keys: ["Alt p"],
        enabled: active,
        perform: () => (pausing === "pause" ? commands.send("pause") : focusRegion("heading")),
      },
      {
        name: "again",
        label: "Try again what failed or did not go",
        keys: ["Alt t"],
        enabled: !!mayTry,
        perform: () => setAsking(tally?.may_try_again ? "failed" : "stopped"),
      },
    ],
    [rows, active, pausing, commands, mayTry, tally?.may_try_again],
  );
  useActions("desk", own, useRowFinder(desk, dispatch));

  const next = active && state.following ? (tally.next?.row ?? null) : null;
  useEffect(() => {
    if (next !== null) dispatch({ type: "row followed", row: next });
  }, [next, dispatch]);
  const { undo, redo, walk, mend, keep } = commands;
  const mendCell = useCallback(
    (row: number, column: string, typed: string, was: string, shown: number) => mend(row, column, typed, was, undefined, shown),
    [mend],
  );
  /** Goes to the first row with a mark, and there to the cell that has to be mended. */
  const toMark = useCallback(
    (mark: "Held" | "Failed") => {
      const query = { mark, limit: 1 } as const;
      void told(api.GET("/api/rounds/{round_id}/rows", { params: { path: { round_id: desk.id }, query } }))
        .then(({ rows: [first] }) => {
          dispatch({ type: "mark chosen", mark });
          if (!first) return;
          const wrong = first.cells.findIndex((cell) => cell.trouble != null);
          const mobile = desk.columns.findIndex((column) => column.role === "mobile number");
          dispatch({ type: "cell chosen", row: first.number, column: desk.columns[wrong < 0 ? Math.max(0, mobile) : wrong]?.name ?? "" });
          focusSoon("sheet");
        })
        .catch(notices.trouble);
    },
    [desk.id, desk.columns, dispatch, notices],
  );
  const now = useCallback(() => Promise.resolve(), []);
  const [notHere, setNotHere] = useState<NotHere | null>(null);
  const unsent = useUnsent(desk.id);
  const unkept = useMemo(() => byRow(unsent.cells), [unsent.cells]);
  useEffect(() => outbox.seen(desk.id, desk.version), [desk.id, desk.version]);
  useLeft(desk);
  const blocks = useMemo<Blocks>(
    () => ({
      change: (act, lines, columns) => {
        const [row, column] = [lines[0], columns[0]];
        if (act === "empty" && lines.length === 1 && columns.length === 1 && row !== undefined && column !== undefined) mend(row, column, "");
        else notices.trouble(ONE_AT_A_TIME);
      },
      paste: (text, place) => {
        const [row, column] = [place.rows[0], place.columns[0]];
        const typed = text.replace(/\r?\n$/, "");
        if (/[\t\n]/.test(typed) || place.chosen !== 1 || row === undefined || column === undefined) notices.trouble(ONE_AT_A_TIME);
        else mend(row, column, typed);
      },
      copied: (copied, columns) => notices.done(`Copied: ${figure(copied)} × ${columns}.`),
      failed: notices.trouble,
    }),
    [notices, mend],
  );
  return (
    <main className="desk">
      <Heading key={`${desk.id}/${desk.title}`} desk={desk} view={view} onSetup={commands.setUp}>
        <UndoButtons desk={desk} onUndo={() => void undo(now(), setNotHere)} onRedo={() => void redo(now(), setNotHere)} onWalk={(which, upto) => void walk(which, upto, now())} />
        {active && (
          <Button
            key={looksFirst ? "looked" : "pause"}
            data-first={looksFirst ? undefined : true}
            onClick={() => (pausing === "pause" ? commands.send("pause") : commands.goOn(looksFirst))}
          >
            {pausing === "pause" ? "Pause" : looksFirst ? "I have looked: go on" : "Go on"}
          </Button>
        )}
        {active && tally.may_take_back && (
          <Button onClick={() => commands.takeBackSending(() => notices.done("Taken back: nothing of it went, and all of it can be changed again."))}>Take back</Button>
        )}
        {active && <StopButton tally={tally} onStop={() => commands.send("stop")} />}
        <SaveMenu roundId={desk.id} started onRemove={nothing} />
      </Heading>
      <NotKept round={desk.id} shown={unsent} />
      {live && (
        <div className="pb-3">
          <TallyPanel live={live} desk={desk} row={state.row} lost={lost} onLine={commands.goByLine} />
        </div>
      )}
      <div className="desk-parts">
        <SheetPaper
          desk={desk}
          counts={tally?.counts ?? desk.counts}
          state={state}
          dispatch={dispatch}
          stamp={stamp}
          planned={active}
          follow={next}
          following={active ? state.following : null}
          search={search}
          onColumn={nothing}
          onFormula={nothing}
          onMend={mendCell}
          unkept={unkept}
          blocks={blocks}
          choosing={choosing}
        />
        <div className="desk-right">
          <WrittenTwice round={desk.id} asked={unsent.asked} />
          <SlipPanel
            of={desk.uid}
            slip={slip}
            standing={standing}
            stale={false}
            row={state.row}
            rows={desk.rows}
            line={desk.line}
            sent
            leaves={active ? leaves : null}
            onStep={(by) => dispatch({ type: "row stepped", by, rows: desk.rows })}
            onKeep={(change) => keep(state.row, change)}
          />
          {tally && (
            <Settle
              of={desk.uid}
              tally={tally}
              line={desk.line}
              asking={asking}
              onAsking={setAsking}
              row={standing?.mark === "Unsure" ? state.row : null}
              onAgain={(which, texts) => {
                commands.again(which, texts, which === "failed" ? tally.seal_of_failed : tally.seal_of_stopped, !!tally.look_first);
                focusSoon("heading");
              }}
              onAsk={commands.ask}
              onSettle={commands.settle}
              onUnsure={() => dispatch({ type: "mark chosen", mark: "Unsure" })}
              onFailed={() => toMark("Failed")}
            />
          )}
          {n("Held") > 0 && <HeldBack held={n("Held")} over={over} onShow={() => toMark("Held")} />}
          {tally && tally.ready > 0 && (
            <StillReady
              ready={tally.ready}
              mended={tally.mended}
              chosen={choosing.rows.length ? (choosing.sum?.texts ?? 0) : null}
              paused={tally.stage === "paused"}
              onShow={() => dispatch({ type: "mark chosen", mark: "Ready" })}
              onChosen={() => setSending(choosing.rows)}
              onAll={() => setSending("all")}
              onKeepBack={commands.keepBack}
            />
          )}
        </div>
      </div>
      <NotHereDialog asked={notHere} onAll={(asked) => void commands.walkOne(asked)} onClose={() => setNotHere(null)} />
      <Dropped title={desk.title} onNewer={null} />
      {sending && (
        <Suspense>
          <SendDialog
            roundId={desk.id}
            rows={sending === "all" ? null : sending}
            later
            onClose={() => setSending(null)}
            onStarted={(found) => {
              setSending(null);
              choosing.none();
              commands.seen(found);
              focusSoon("heading");
            }}
          />
        </Suspense>
      )}
    </main>
  );
}
