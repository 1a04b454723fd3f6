import { useCallback, useEffect, useMemo, useReducer, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { ColumnOut, Desk } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { ComputeMenu, PANELS, type Panel } from "../compute/ComputeMenu.tsx";
import { PanelPaper } from "../compute/PanelPaper.tsx";
import { Dock } from "../dock/Dock.tsx";
import { SlipPanel } from "../slip/SlipPanel.tsx";
import { useWording } from "../wording/useWording.ts";
import { WordingBox } from "../wording/WordingBox.tsx";
import { ToBeSaid } from "./ToBeSaid.tsx";
import { Heading } from "./Heading.tsx";
import { OpenDialog, type Opened } from "./OpenDialog.tsx";
import { SaveMenu } from "./SaveMenu.tsx";
import { SheetMenu } from "./SheetMenu.tsx";
import { SheetPaper } from "./SheetPaper.tsx";
import { UndoButtons } from "./UndoButtons.tsx";
import { deskReducer, emptyDesk } from "./state.ts";
import { useCommands } from "./useCommands.ts";
import { useRow } from "./useRow.ts";
import { useRowActions } from "./useRowActions.ts";
import { WorthALook } from "./WorthALook.tsx";

/** The desk of a round that is prepared: everything that depends on everything else, at once. */
export function PrepareDesk({ desk }: { desk: Desk }) {
  const notices = useNotices();
  const go = useNavigate();
  const [state, dispatch] = useReducer(deskReducer, emptyDesk);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [panel, setPanel] = useState<Panel | null>(null);
  const search = useRef<HTMLInputElement>(null);
  const commands = useCommands(desk.id);
  const wording = useWording(desk, state.row, commands.refresh);

  // What the last key was answered with is newer than the desk until all rows are counted again.
  const newer = wording.answer && wording.answer.version > desk.version ? wording.answer : null;
  const { slip, standing } = useRow(desk.id, state.row, String(desk.version), newer);

  const chooseRow = useCallback((row: number) => dispatch({ type: "row chosen", row }), []);
  const openFormula = useCallback(
    (column: ColumnOut) => setPanel({ kind: column.template === null ? "formula" : "link", was: column.name }),
    [],
  );
  const closePanel = useCallback(() => setPanel(null), []);
  const addRow = useCallback(
    () => commands.addRow((found) => dispatch({ type: "row chosen", row: found.rows })),
    [commands],
  );
  // What is undone is what stands in the program: the last words are kept first.
  const { settled } = wording;
  const undo = useCallback(() => commands.undo(settled()), [commands, settled]);
  const redo = useCallback(() => commands.redo(settled()), [commands, settled]);

  // The list of what can be done stays the same from row to row: whoever shows it need not be drawn at each step.
  const here = useRef(state.row);
  useEffect(() => {
    here.current = state.row;
  }, [state.row]);
  const leftOut = standing?.mark === "Left out";
  const own = useMemo<Action[]>(
    () => [
      {
        name: "leave-out",
        label: leftOut ? "Take this row back" : "Leave this row out",
        key: "l",
        perform: () => commands.keep(here.current, { left_out: !leftOut }),
      },
      { name: "undo", label: "Undo", key: "Ctrl z", enabled: !!desk.undo, perform: () => void undo() },
      { name: "redo", label: "Do again", key: "Ctrl y", enabled: !!desk.redo, perform: () => void redo() },
      { name: "add-row", label: "Add a row", perform: addRow },
      { name: "tidy", label: "Tidy the numbers", perform: () => setOpened("tidy") },
      { name: "newer", label: "Bring in a newer version of the sheet", perform: () => setOpened("newer") },
      { name: "changes", label: "See what was changed", perform: () => void go(`/rounds/${desk.id}/changes`) },
      ...PANELS.map((p) => ({ name: p.label, label: p.label, perform: () => setPanel(p.panel) })),
    ],
    [leftOut, commands, desk.undo, desk.redo, desk.id, undo, redo, addRow, go],
  );
  const rows = useRowActions(desk.rows, dispatch, search);
  useActions("desk", useMemo(() => [...rows, ...own], [rows, own]));

  const remove = () =>
    commands.remove(() => {
      notices.done(`The round ${desk.title} is removed.`);
      void go("/");
    });
  return (
    <>
      <main className="flex min-h-0 flex-1 flex-col px-5 pt-2.5 pb-3.5">
        <Heading key={`${desk.id}/${desk.title}`} desk={desk} onSetup={commands.setUp}>
          <SheetMenu onAddRow={addRow} onNewer={() => setOpened("newer")} onTidy={() => setOpened("tidy")} />
          <SaveMenu roundId={desk.id} started={false} onRemove={remove} />
        </Heading>
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_404px] gap-3.5">
          <SheetPaper
            desk={desk}
            counts={desk.counts}
            state={state}
            dispatch={dispatch}
            stamp={String(desk.version)}
            search={search}
            onRow={chooseRow}
            onColumn={commands.setColumn}
            onFormula={openFormula}
            onMend={commands.mend}
          >
            <UndoButtons undo={desk.undo} redo={desk.redo} onUndo={() => void undo()} onRedo={() => void redo()} />
            <ComputeMenu onOpen={setPanel} />
          </SheetPaper>
          <div className="flex min-h-0 flex-col gap-3 overflow-auto p-px">
            <ToBeSaid desk={desk} commands={commands} />
            <PanelPaper panel={panel} desk={desk} row={state.row} onRow={chooseRow} commands={commands} onClose={closePanel} />
            <div className={panel ? "hidden" : "contents"}>
              <WordingBox
                key={desk.id}
                desk={desk}
                problems={newer ? newer.wording_problems : desk.wording_problems}
                wording={wording}
                onUndo={undo}
                onRedo={redo}
              />
            </div>
            <SlipPanel
              slip={slip}
              standing={standing}
              stale={!!newer}
              row={state.row}
              rows={desk.rows}
              line={desk.line}
              sent={false}
              onStep={(by) => dispatch({ type: "row stepped", by, rows: desk.rows })}
              onKeep={(change) => commands.keep(state.row, change)}
            />
            <WorthALook
              findings={desk.findings}
              stale={!!newer}
              chosen={state.filter.finding}
              onChoose={(finding) => dispatch({ type: "finding chosen", finding })}
            />
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
          onPace={(pace) => commands.setUp({ pace })}
          onSend={() => setOpened("send")}
        />
      )}
      <OpenDialog opened={opened} desk={desk} commands={commands} onRow={chooseRow} onClose={() => setOpened(null)} />
    </>
  );
}
