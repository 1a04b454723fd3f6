import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { useNavigate } from "react-router";
import { api, told, type ColumnOut, type Desk, type Finding, type Mend, type Pace, type PasteIn, type WordingOfRound } from "../../api/client.ts";
import { focusSoon } from "../../ui/focus.ts";
import { keepUnder, keptUnder } from "../../state/durable.ts";
import { settingIn } from "../../state/outbox.ts";
import { outbox, useUnsent } from "../../state/sending.ts";
import { useKept } from "../../ui/kept.ts";
import { useNotices } from "../../ui/notices.tsx";
import { useTitle } from "../../ui/useTitle.ts";
import { ComputeMenu, type ColumnPanel, type Panel } from "../compute/ComputeMenu.tsx";
import { PanelPaper } from "../compute/PanelPaper.tsx";
import { Dock } from "../dock/Dock.tsx";
import { moreSaid } from "../dock/pace.ts";
import { useForecast, useRowForecast } from "../dock/useForecast.ts";
import type { Journey } from "../grid/hand.ts";
import { byRow } from "../grid/cells.ts";
import type { Blocks } from "../grid/useBlocks.ts";
import { useChosen } from "../grid/useChosen.ts";
import { useRehearsal } from "../rehearsal/useRehearsal.ts";
import { SlipPanel } from "../slip/SlipPanel.tsx";
import { leftOf, useWording } from "../wording/useWording.ts";
import { REST } from "../wording/rest.ts";
import { WordingBox } from "../wording/WordingBox.tsx";
import { Dropped } from "./Dropped.tsx";
import { FirstTime } from "./FirstTime.tsx";
import { ToBeSaid } from "./ToBeSaid.tsx";
import { Heading } from "./Heading.tsx";
import { OpenDialog, type Opened } from "./OpenDialog.tsx";
import { SaveMenu } from "./SaveMenu.tsx";
import { SheetMenu } from "./SheetMenu.tsx";
import { SheetPaper } from "./SheetPaper.tsx";
import { UndoButtons } from "./UndoButtons.tsx";
import { NotHereDialog } from "./NotHereDialog.tsx";
import { NotKept, WrittenTwice } from "./NotKept.tsx";
import { useLeft } from "./useLeft.ts";
import { useCommands, type NotHere } from "./useCommands.ts";
import { useDeskState } from "./useDeskState.ts";
import { useEndedFilter } from "./useEndedFilter.ts";
import { useNews } from "./useNews.ts";
import { usePrepareActions } from "./usePrepareActions.ts";
import { useRow } from "./useRow.ts";
import { useRowActions } from "./useRowActions.ts";
import { useRowFinder } from "./useRowFinder.ts";
import { WorthALook } from "./WorthALook.tsx";

/** The wording of that name; where there is none any more, the one for all the rest. */
const writingOf = ({ wordings, wording }: Desk, name: string | null): WordingOfRound =>
  wordings.find((each) => each.name === name) ??
  wordings.at(-1) ?? { name: null, when: "", when_problem: null, text: wording, problems: [], fields: [], rows: null };

/** The desk of a round that is prepared: everything that depends on everything else, at once. */
export function PrepareDesk({ desk }: { desk: Desk }) {
  const notices = useNotices();
  const go = useNavigate();
  const [state, dispatch] = useDeskState(desk);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [panel, setPanel] = useKept<Panel | null>(`panel/${desk.id}`, null);
  const search = useRef<HTMLInputElement>(null);
  const commands = useCommands(desk.id);
  // What was typed last and is not kept yet is seen first.
  const begun = desk.wordings.find(({ name }) => leftOf(desk.uid, name))?.name ?? null;
  const [chosenWording, chooseWording] = useKept<string | null>(`wording/${desk.id}`, begun);
  const writing = writingOf(desk, chosenWording);
  const wording = useWording({ id: desk.id, uid: desk.uid, of: writing.name, wording: writing.text }, state.row, commands.refresh);
  useEffect(() => focusSoon("sheet"), []);
  useTitle(`${desk.title}: being prepared`);

  // What the last key was answered with is newer than the desk until all rows are counted again.
  const newer = wording.answer && wording.answer.version > desk.version ? wording.answer : null;
  const { slip, standing } = useRow(desk.id, state.row, String(desk.version), newer);
  useNews(desk.id, newer?.version ?? desk.version, commands.refresh);
  useEndedFilter(state.filter, desk, desk.counts, dispatch);
  useLeft(desk);
  const unsent = useUnsent(desk.id);
  const unkept = useMemo(() => byRow(unsent.cells), [unsent.cells]);
  useEffect(() => outbox.seen(desk.id, desk.version), [desk.id, desk.version]);
  const pace = settingIn(unsent, "pace") as Pace | undefined;
  const [notHere, setNotHere] = useState<NotHere | null>(null);

  // What can be done stays the same from row to row: whoever shows it need not be drawn at each step.
  const here = useRef(state.row);
  // What is typed behind it is meant for the row that is added, not for the one that is still chosen.
  const rowComes = useRef<Journey | null>(null);
  useEffect(() => {
    here.current = state.row;
    // A hand that goes elsewhere waits for no row any more.
    rowComes.current = null;
  }, [state.row]);
  const chooseRow = useCallback((row: number) => dispatch({ type: "row chosen", row }), [dispatch]);
  const toCell = useCallback(
    (row: number, column: string) => {
      dispatch({ type: "row chosen", row });
      dispatch({ type: "cell chosen", row, column });
      focusSoon("sheet");
    },
    [dispatch],
  );
  const openFormula = useCallback(
    (column: ColumnOut) => setPanel({ kind: column.template === null ? "formula" : "link", was: column.name }),
    [setPanel],
  );
  const closePanel = useCallback(() => setPanel(null), [setPanel]);
  const put = useCallback(
    (mine: ColumnPanel, column: string, rested: boolean) => {
      // By now another panel may be open, and the hand in it.
      setPanel((now) => (now && "was" in now && now.kind === mine.kind && now.was === mine.was ? null : now));
      if (!rested) return;
      dispatch({ type: "cell chosen", row: here.current, column });
      focusSoon("sheet");
    },
    [dispatch, setPanel],
  );
  const addRow = useCallback(() => {
    const journey: Journey = { row: null };
    const from = here.current;
    rowComes.current = journey;
    focusSoon("sheet");
    void commands
      .addRow((found) => {
        if (rowComes.current === journey) rowComes.current = null;
        journey.row = found.rows;
        // Drawn before the next key can come, which would meet the row before.
        // A hand that went elsewhere meanwhile stays there.
        if (here.current === from) flushSync(() => dispatch({ type: "row found", row: found.rows }));
      })
      .finally(() => {
        if (rowComes.current === journey) rowComes.current = null;
      });
  }, [commands, dispatch]);
  // What is undone is what stands in the program: the last words are kept first.
  const { settled } = wording;
  /** What is confirmed, or read, has all that was typed before in it. */
  const allKept = useCallback(() => settled().then(() => outbox.kept(desk.id)), [settled, desk.id]);
  /** Another wording is written once all that was typed into this one is kept. */
  const toWording = useCallback(
    (name: string | null) => {
      closePanel();
      void settled().then(() => {
        chooseWording(name);
        focusSoon("wording");
      });
    },
    [closePanel, settled, chooseWording],
  );
  const showWording = useCallback(
    (shown: string | null) => {
      dispatch({ type: "wording chosen", wording: shown });
      if (shown !== null) focusSoon("sheet");
    },
    [dispatch],
  );
  const choosing = useChosen(desk, String(desk.version));
  // Another sheet may stand there then, with other people in its rows.
  const chooseNone = choosing.none;
  const undo = useCallback(() => {
    chooseNone();
    return commands.undo(settled(), setNotHere);
  }, [commands, settled, chooseNone]);
  const redo = useCallback(() => {
    chooseNone();
    return commands.redo(settled(), setNotHere);
  }, [commands, settled, chooseNone]);
  const { data: rehearsal } = useRehearsal(desk.id, String(desk.version));
  const mendCell = useCallback(
    (row: number, column: string, typed: string, was: string, seen: number) => commands.mend(row, column, typed, was, undefined, seen),
    [commands],
  );
  /** A block that has to be shown first is there until somebody has said what becomes of it. */
  const toPaste = useCallback(
    (body: PasteIn) => {
      keepUnder(`paste/${desk.uid}`, body);
      setOpened({ kind: "paste", body });
    },
    [desk.uid],
  );
  const left = keptUnder(`paste/${desk.uid}`) as PasteIn | undefined;
  const [, setClosed] = useState(0);
  const close = useCallback(() => {
    keepUnder(`paste/${desk.uid}`, undefined);
    setOpened(null);
    setClosed((times) => times + 1);
  }, [desk.uid]);
  const blocks = useMemo<Blocks>(
    () => ({
      change: commands.changeCells,
      paste: (text, place) => {
        const body = { ...place, text, below: false };
        void commands.paste(body).then((covers) => covers && toPaste(body));
      },
      copied: (rows, columns) => notices.done(`Copied: ${rows.toLocaleString("en-CA")} × ${columns}.`),
      failed: notices.trouble,
    }),
    [commands, notices, toPaste],
  );

  const leaveOut = useCallback((left_out: boolean) => commands.keep(here.current, { left_out }), [commands]);
  usePrepareActions({
    id: desk.id,
    rows: useRowActions(desk.rows, dispatch, search),
    finder: useRowFinder(desk, dispatch),
    leftOut: standing?.mark === "Left out",
    number: slip?.number ?? "",
    panel,
    onLeaveOut: leaveOut,
    onAddRow: addRow,
    onOpened: setOpened,
    onPanel: setPanel,
  });

  const mendFinding = useCallback(
    (finding: Finding, mend: Mend) => {
      if (mend === "plain characters") setPanel({ kind: "weight" });
      else commands.mendFinding(finding.check, mend, desk.version, null);
    },
    [commands, desk.version, setPanel],
  );
  const remove = () =>
    commands.remove(() => {
      void go("/");
      notices.done(`The round ${desk.title} is removed.`, () => {
        void told(api.POST("/api/rounds/{round_id}/restore", { params: { path: { round_id: desk.id } } }))
          .then(() => go(`/rounds/${desk.id}`))
          .catch(notices.trouble);
      });
    });
  // When a row leaves is said where there is more to it than one after the other.
  const asked = useForecast(desk.id, `${desk.version}`);
  const forecast = asked.data;
  const says = !!forecast && !asked.isPlaceholderData && moreSaid(desk.pace) > 0;
  const leaves = useRowForecast(desk.id, state.row, `${desk.version}`, says).data ?? null;
  return (
    <>
      <main className="desk">
        <Heading key={`${desk.id}/${desk.title}`} desk={desk} view="being prepared" onSetup={commands.setUp}>
          <SheetMenu onAddRow={addRow} onNewer={() => setOpened({ kind: "newer" })} onCheckNumbers={() => setOpened({ kind: "numbers" })} />
          <SaveMenu roundId={desk.id} started={false} onRemove={remove} />
        </Heading>
        <NotKept round={desk.id} shown={unsent} />
        <FirstTime />
        <div className="desk-parts">
          <SheetPaper
            desk={desk}
            counts={desk.counts}
            state={state}
            dispatch={dispatch}
            stamp={String(desk.version)}
            planned={says}
            search={search}
            onColumn={commands.setColumn}
            onFormula={openFormula}
            onMend={mendCell}
            blocks={blocks}
            choosing={choosing}
            onMendFinding={mendFinding}
            rowComes={rowComes}
            unkept={unkept}
          >
            <UndoButtons desk={desk} onUndo={() => void undo()} onRedo={() => void redo()} onWalk={(which, upto) => {
                chooseNone();
                void commands.walk(which, upto, settled());
              }} />
            <ComputeMenu onOpen={setPanel} />
          </SheetPaper>
          <div className="desk-right">
            <WrittenTwice round={desk.id} asked={unsent.asked} />
            <ToBeSaid
              desk={desk}
              commands={commands}
              combining={panel?.kind === "combine"}
              onCell={toCell}
            />
            <PanelPaper onCell={toCell} panel={panel} desk={desk} row={state.row} onRow={chooseRow} commands={commands} onPut={put} onWording={toWording} onClose={closePanel} />
            <div className={panel ? "hidden" : "contents"}>
              <WordingBox
                key={`${desk.id}/${writing.name}`}
                desk={desk}
                writing={writing}
                wording={wording}
                shown={state.filter.wording}
                onChoose={toWording}
                onShow={showWording}
                onPanel={setPanel}
                onUndo={undo}
                onRedo={redo}
              />
            </div>
            <SlipPanel
              of={desk.uid}
              slip={slip}
              standing={standing}
              stale={!!newer}
              row={state.row}
              rows={desk.rows}
              line={desk.line}
              sent={false}
              leaves={says ? leaves : null}
              onStep={(by) => dispatch({ type: "row stepped", by, rows: desk.rows })}
              onKeep={(change) => commands.keep(state.row, change)}
              onWording={(name) => toWording(name === REST ? null : name)}
            />
            <WorthALook
              findings={desk.findings}
              stale={!!newer}
              chosen={state.filter.finding}
              onChecks={() => setPanel({ kind: "checks" })}
              onRead={() => void allKept().then(() => go(`/rounds/${desk.id}/look`))}
              onChoose={(finding) => {
                dispatch({ type: "finding chosen", finding });
                if (finding) focusSoon("sheet");
              }}
            />
          </div>
        </div>
      </main>
      {desk.estimate && (
        <Dock
          desk={pace ? { ...desk, pace } : desk}
          unkept={!!pace && unsent.waiting.length + unsent.asked.length > 0}
          forecast={forecast}
          stale={asked.isPlaceholderData}
          row={state.row}
          estimate={desk.estimate}
          choosing={choosing}
          rehearsed={rehearsal?.kept ?? ""}
          changed={rehearsal?.changed ?? false}
          counting={!!newer}
          first={wording.behind !== null ? "Choose the wording first" : unsent.asked.length ? "Choose first what is to stand" : unsent.waiting.length && unsent.away ? "Not all is kept yet" : ""}
          onPace={(pace) => commands.setUp({ pace })}
          onSend={() => void allKept().then(() => setOpened({ kind: "send", rows: choosing.rows.length ? choosing.rows : null }))}
          onWeight={() => setPanel({ kind: "weight" })}
        />
      )}
      <NotHereDialog asked={notHere} onAll={(asked) => void commands.walkOne(asked)} onClose={() => setNotHere(null)} />
      <OpenDialog opened={opened ?? (left ? { kind: "paste", body: left } : null)} desk={desk} commands={commands} onRow={chooseRow} onNewer={choosing.none} onClose={close} />
      <Dropped title={desk.title} onNewer={(file) => setOpened({ kind: "newer", file })} />
    </>
  );
}
