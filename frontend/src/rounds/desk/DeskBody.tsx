import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { api, told, type Desk, type ColumnChange, type ColumnOut, type ComputedIn, type SetupIn, type Tally } from "../../api/client.ts";
import { InTurn, newest } from "../../api/newest.ts";
import { useNavigate } from "react-router";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { useNotices } from "../../ui/notices.tsx";
import { Dock } from "../dock/Dock.tsx";
import { SendDialog } from "../dock/SendDialog.tsx";
import { Grid } from "../grid/Grid.tsx";
import { GridBar } from "../grid/GridBar.tsx";
import { SlipPanel } from "../slip/SlipPanel.tsx";
import { TidyDialog } from "../tidy/TidyDialog.tsx";
import { StopButton } from "../tally/StopButton.tsx";
import { Settle } from "../tally/Settle.tsx";
import { TallyPanel } from "../tally/TallyPanel.tsx";
import { useTally } from "../tally/useTally.ts";
import { useWording } from "../wording/useWording.ts";
import { WordingBox } from "../wording/WordingBox.tsx";
import { ColumnQuestions } from "./ColumnQuestions.tsx";
import { Doubled } from "./Doubled.tsx";
import { Heading } from "./Heading.tsx";
import { HiddenRows } from "./HiddenRows.tsx";
import { NewerDialog } from "./NewerDialog.tsx";
import { SaveMenu } from "./SaveMenu.tsx";
import { SentColumns } from "./SentColumns.tsx";
import { SheetMenu } from "./SheetMenu.tsx";
import { Steps } from "./Steps.tsx";
import { Unmatched } from "./Unmatched.tsx";
import { Unusable } from "./Unusable.tsx";
import { deskReducer, emptyDesk } from "./state.ts";
import { WorthALook } from "./WorthALook.tsx";
import { ComputeMenu, PANELS, type Panel } from "../compute/ComputeMenu.tsx";
import { PanelPaper } from "../compute/PanelPaper.tsx";

type Keeping = { left_out?: boolean; released?: boolean };

/** The one desk: everything that depends on everything else, at once. */
export function DeskBody({ desk }: { desk: Desk }) {
  const queries = useQueryClient();
  const notices = useNotices();
  const go = useNavigate();
  const [state, dispatch] = useReducer(deskReducer, emptyDesk);
  const [sending, setSending] = useState(false);
  const [tidying, setTidying] = useState(false);
  const [comparing, setComparing] = useState(false);
  const [panel, setPanel] = useState<Panel | null>(null);
  const search = useRef<HTMLInputElement>(null);
  const started = desk.stage !== "preparing";
  const path = useMemo(() => ({ round_id: desk.id }), [desk.id]);
  const { live, lost, put: putTally } = useTally(desk.id, started);
  const tally = live?.tally;
  const words = useDeferredValue(state.filter.words);
  const filter = useMemo(() => ({ ...state.filter, words }), [state.filter, words]);

  const refresh = useCallback(() => void queries.invalidateQueries({ queryKey: ["desk", desk.id] }), [queries, desk.id]);
  const setDesk = useCallback(
    (found: Desk) => queries.setQueryData<Desk>(["desk", desk.id], (kept) => newest(kept, found)),
    [queries, desk.id],
  );
  const wording = useWording(desk, state.row, refresh);

  // The marks move while texts go out; the rows in sight are asked for again with each entry of the ledger.
  const stamp = tally ? `${tally.version}/${tally.entry}` : String(desk.version);
  useEffect(() => {
    if (tally && tally.version > desk.version) refresh();
  }, [tally, desk.version, refresh]);

  // What the last key was answered with is newer than the desk until all rows are counted again.
  const newer = wording.answer && wording.answer.version > desk.version ? wording.answer : null;
  const slip = useQuery({
    queryKey: ["slip", desk.id, state.row, stamp, newer?.version],
    // The key's answer brought this row's slip; the other rows' are asked for by the wording they belong to.
    enabled: newer?.slip.row !== state.row,
    queryFn: ({ signal }) =>
      told(api.GET("/api/rounds/{round_id}/rows/{number}/slip", { params: { path: { ...path, number: state.row } }, signal })),
    placeholderData: keepPreviousData,
  });
  const standing = useQuery({
    queryKey: ["standing", desk.id, state.row, stamp],
    queryFn: ({ signal }) =>
      told(api.GET("/api/rounds/{round_id}/rows/{number}/standing", { params: { path: { ...path, number: state.row } }, signal })),
    placeholderData: keepPreviousData,
  });
  const shownSlip = newer?.slip.row === state.row ? newer.slip : slip.data;
  const shownStanding = standing.data?.row === shownSlip?.row ? standing.data : undefined;
  const problems = newer ? newer.wording_problems : desk.wording_problems;

  const turns = useRef(new InTurn());
  /** Does something that the program may refuse, after what was begun before; what it says is shown. */
  const attempt = useCallback(
    async <T,>(doing: () => Promise<T>, then?: (done: T) => void) => {
      try {
        const done = await turns.current.do(doing);
        then?.(done);
      } catch (error) {
        notices.trouble(error);
        refresh();
      }
    },
    [notices, refresh],
  );
  const chooseRow = useCallback((row: number) => dispatch({ type: "row chosen", row }), []);
  const setColumn = useCallback(
    (name: string, change: ColumnChange) =>
      void attempt(
        () => told(api.PATCH("/api/rounds/{round_id}/columns", { params: { path }, body: { name, ...change } })),
        setDesk,
      ),
    [attempt, path, setDesk],
  );
  const put = useCallback(
    (asking: () => Promise<Desk>) => void attempt(asking, setDesk),
    [attempt, setDesk],
  );
  const mend = useCallback(
    (number: number, column: string, typed: string) =>
      put(() =>
        told(
          api.PATCH("/api/rounds/{round_id}/rows/{number}/cells", {
            params: { path: { ...path, number } },
            body: { column, typed },
          }),
        ),
      ),
    [put, path],
  );
  const undo = useCallback(() => put(() => told(api.POST("/api/rounds/{round_id}/undo", { params: { path } }))), [put, path]);
  const redo = useCallback(() => put(() => told(api.POST("/api/rounds/{round_id}/redo", { params: { path } }))), [put, path]);
  const addRow = useCallback(
    () =>
      void attempt(
        () => told(api.POST("/api/rounds/{round_id}/rows", { params: { path } })),
        (found) => {
          setDesk(found);
          dispatch({ type: "row chosen", row: found.rows });
        },
      ),
    [attempt, path, setDesk],
  );
  const match = (name: string, column: string) =>
    put(() => told(api.POST("/api/rounds/{round_id}/columns/match", { params: { path }, body: { name, column } })));
  const forget = (name: string) =>
    put(() => told(api.POST("/api/rounds/{round_id}/columns/forget", { params: { path }, body: { name } })));
  const sayDoubled = (name: string, computed: boolean) =>
    put(() => told(api.POST("/api/rounds/{round_id}/columns/doubled", { params: { path }, body: { name, computed } })));
  const saySent = (name: string, leave_out: boolean) =>
    put(() => told(api.POST("/api/rounds/{round_id}/columns/sent", { params: { path }, body: { name, leave_out } })));
  const mendRecipe = () =>
    put(() => told(api.POST("/api/rounds/{round_id}/recipe/mend", { params: { path } })));
  const openFormula = useCallback(
    (column: ColumnOut) => setPanel({ kind: column.template === null ? "formula" : "link", was: column.name }),
    [],
  );
  const putComputed = (body: ComputedIn) =>
    void attempt(
      () => told(api.PUT("/api/rounds/{round_id}/columns/computed", { params: { path }, body })),
      (found) => {
        setDesk(found);
        setPanel(null);
      },
    );
  const removeComputed = (name: string) => {
    const before = desk.columns.find((c) => c.name === name);
    void attempt(
      () => told(api.DELETE("/api/rounds/{round_id}/columns/computed", { params: { path, query: { name } } })),
      (found) => {
        setDesk(found);
        setPanel(null);
        if (before)
          notices.done(`The column ${name} is taken out.`, () => {
            const { formula, template, format, fallback } = before;
            putComputed({ name, formula, template, format, fallback });
          });
      },
    );
  };
  const setUp = (body: SetupIn) =>
    void attempt(() => told(api.PATCH("/api/rounds/{round_id}", { params: { path }, body })), setDesk);
  const change = useCallback(
    (number: number, body: Keeping, then?: () => void) => {
      const params = { path: { ...path, number } };
      void attempt(
        () => told(api.PATCH("/api/rounds/{round_id}/rows/{number}", { params, body })),
        () => {
          refresh();
          then?.();
        },
      );
    },
    [attempt, path, refresh],
  );
  const keep = useCallback(
    (number: number, body: Keeping) => {
      const said = body.released ? "will be sent all the same" : body.left_out ? "is left out" : "is taken back";
      const back = body.released ? { released: false } : { left_out: !body.left_out };
      change(number, body, () => notices.done(`Row ${number} ${said}.`, () => change(number, back)));
    },
    [change, notices],
  );
  const seen = (found: Tally) => {
    putTally(found);
    refresh();
  };
  const command = (name: "pause" | "go-on" | "stop") =>
    void attempt(() => told(api.POST(`/api/rounds/{round_id}/${name}`, { params: { path } })), seen);
  const again = (which: "failed" | "stopped", texts: number) =>
    void attempt(() => told(api.POST("/api/rounds/{round_id}/again", { params: { path }, body: { which, texts } })), seen);
  const ask = () =>
    void attempt(
      () => told(api.POST("/api/rounds/{round_id}/ask", { params: { path } })),
      (found) => {
        notices.done(`The carrier is being asked about ${counted(found.unsure, "text")}.`);
        seen(found);
      },
    );

  const remove = () =>
    void attempt(
      () => told(api.DELETE("/api/rounds/{round_id}", { params: { path } })),
      () => {
        notices.done(`The round ${desk.title} is removed.`);
        void go("/");
      },
    );

  const step = useCallback((by: 1 | -1) => dispatch({ type: "row stepped", by, rows: desk.rows }), [desk.rows]);
  // The list of what can be done stays the same from row to row: whoever shows it need not be drawn at each step.
  const here = useRef(state.row);
  useEffect(() => {
    here.current = state.row;
  }, [state.row]);
  const leftOut = shownStanding?.mark === "Left out";
  const actions = useMemo<Action[]>(
    () => [
      { name: "next-row", label: "Show the row after", key: "ArrowDown", perform: () => step(1) },
      { name: "previous-row", label: "Show the row before", key: "ArrowUp", perform: () => step(-1) },
      { name: "search", label: "Find in rows", key: "Ctrl f", perform: () => search.current?.focus() },
      {
        name: "leave-out",
        label: leftOut ? "Take this row back" : "Leave this row out",
        key: "l",
        enabled: !started,
        perform: () => keep(here.current, { left_out: !leftOut }),
      },
      { name: "undo", label: "Undo", key: "Ctrl z", enabled: !started && !!desk.undo, perform: undo },
      { name: "redo", label: "Do again", key: "Ctrl y", enabled: !started && !!desk.redo, perform: redo },
      { name: "add-row", label: "Add a row", enabled: !started, perform: addRow },
      { name: "tidy", label: "Tidy the numbers", enabled: !started, perform: () => setTidying(true) },
      { name: "newer", label: "Bring in a newer version of the sheet", enabled: !started, perform: () => setComparing(true) },
      { name: "held", label: "Show the held rows", perform: () => dispatch({ type: "mark chosen", mark: "Held" }) },
      { name: "all", label: "Show all rows", perform: () => dispatch({ type: "mark chosen", mark: null }) },
      ...PANELS.map((p) => ({ name: p.label, label: p.label, enabled: !started, perform: () => setPanel(p.panel) })),
    ],
    [step, leftOut, started, keep, desk.undo, desk.redo, undo, redo, addRow],
  );
  useActions("desk", actions);

  const active = tally?.stage === "sending" || tally?.stage === "paused";
  const next = active && state.following ? (tally.next?.row ?? null) : null;
  useEffect(() => {
    if (next !== null) dispatch({ type: "row followed", row: next });
  }, [next]);
  return (
    <>
      <main className="flex min-h-0 flex-1 flex-col px-5 pt-2.5 pb-3.5">
        <Heading key={`${desk.id}/${desk.title}`} desk={desk} onSetup={setUp}>
          {tally?.stage === "sending" && <Button onClick={() => command("pause")}>Pause</Button>}
          {tally?.stage === "paused" && <Button onClick={() => command("go-on")}>Go on</Button>}
          {active && tally && <StopButton tally={tally} onStop={() => command("stop")} />}
          {!started && <SheetMenu onAddRow={addRow} onNewer={() => setComparing(true)} onTidy={() => setTidying(true)} />}
          <SaveMenu roundId={desk.id} started={started} onRemove={remove} />
        </Heading>
        {live && (
          <div className="pb-3">
            <TallyPanel live={live} desk={desk} lost={lost} />
          </div>
        )}
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_404px] gap-3.5">
          <section aria-label="Sheet" className="flex min-h-0 flex-col rounded-[3px] border border-rule-strong bg-leaf">
            <GridBar
              rows={desk.rows}
              counts={tally?.counts ?? desk.counts}
              filter={state.filter}
              search={search}
              onMark={(mark) => dispatch({ type: "mark chosen", mark })}
              onWords={(typedWords) => dispatch({ type: "words typed", words: typedWords })}
              following={active ? state.following : null}
              onFollowing={(on) => dispatch({ type: "following turned", on })}
            >
              {!started && (
                <>
                  <Steps undo={desk.undo} redo={desk.redo} onUndo={undo} onRedo={redo} />
                  <ComputeMenu onOpen={setPanel} />
                </>
              )}
            </GridBar>
            <Grid
              desk={desk}
              filter={filter}
              stamp={stamp}
              row={state.row}
              follow={next}
              onRow={chooseRow}
              onColumn={setColumn}
              onFormula={openFormula}
              onMend={mend}
            />
          </section>
          <div className="flex min-h-0 flex-col gap-3 overflow-auto p-px">
            {!started && (
              <>
                <Unusable desk={desk} onMend={mendRecipe} />
                <ColumnQuestions desk={desk} onChange={setColumn} />
                <SentColumns desk={desk} onSay={saySent} />
                <HiddenRows desk={desk} onSay={(leave_out_hidden) => setUp({ leave_out_hidden })} />
                <Doubled desk={desk} onSay={sayDoubled} />
                <Unmatched desk={desk} onMatch={match} onForget={forget} />
                <PanelPaper
                  panel={panel}
                  desk={desk}
                  row={state.row}
                  onRow={chooseRow}
                  onPut={putComputed}
                  onRemove={removeComputed}
                  onSetup={setUp}
                  onClose={() => setPanel(null)}
                />
                <div className={panel ? "hidden" : "contents"}>
                  <WordingBox key={desk.id} desk={desk} problems={problems} wording={wording} />
                </div>
              </>
            )}
            <SlipPanel
              slip={shownSlip}
              standing={shownStanding}
              stale={!!newer}
              row={state.row}
              rows={desk.rows}
              line={desk.line}
              sent={started}
              onStep={step}
              onKeep={(change) => keep(state.row, change)}
            />
            {started && tally ? (
              <Settle
                tally={tally}
                line={desk.line}
                onAgain={again}
                onAsk={ask}
                onFailed={() => dispatch({ type: "mark chosen", mark: "Failed" })}
              />
            ) : (
              !started && (
                <WorthALook
                  findings={desk.findings}
                  stale={!!newer}
                  chosen={state.filter.finding}
                  onChoose={(finding) => dispatch({ type: "finding chosen", finding })}
                />
              )
            )}
          </div>
        </div>
      </main>
      {desk.estimate && (
        <Dock
          roundId={desk.id}
          pace={desk.pace}
          estimate={desk.estimate}
          counting={!!newer}
          first={wording.behind !== null ? "Choose the wording first" : ""}
          onPace={(pace) => setUp({ pace })}
          onSend={() => setSending(true)}
        />
      )}
      {tidying && (
        <TidyDialog
          desk={desk}
          onDesk={setDesk}
          onMend={mend}
          onRow={(row) => {
            setTidying(false);
            chooseRow(row);
          }}
          onClose={() => setTidying(false)}
        />
      )}
      {comparing && (
        <NewerDialog
          desk={desk}
          onClose={() => setComparing(false)}
          onTaken={(found) => {
            setComparing(false);
            setDesk(found);
            notices.done(`The newer version is taken: ${counted(found.rows, "row")}.`);
          }}
        />
      )}
      {sending && (
        <SendDialog
          roundId={desk.id}
          onClose={() => setSending(false)}
          onStarted={(found) => {
            setSending(false);
            seen(found);
          }}
        />
      )}
    </>
  );
}
