import { useCallback, useEffect, useReducer, useRef } from "react";
import type { Desk } from "../../api/client.ts";
import { useActions } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";
import { SlipPanel } from "../slip/SlipPanel.tsx";
import { Settle } from "../tally/Settle.tsx";
import { StopButton } from "../tally/StopButton.tsx";
import { TallyPanel } from "../tally/TallyPanel.tsx";
import { useTally } from "../tally/useTally.ts";
import { Heading } from "./Heading.tsx";
import { SaveMenu } from "./SaveMenu.tsx";
import { SheetPaper } from "./SheetPaper.tsx";
import { deskReducer, emptyDesk } from "./state.ts";
import { useCommands } from "./useCommands.ts";
import { useRow } from "./useRow.ts";
import { useRowActions } from "./useRowActions.ts";

const nothing = () => undefined;

/** The desk of a round that was started: what became of each row, and what can still be done about it. */
export function SendDesk({ desk }: { desk: Desk }) {
  const [state, dispatch] = useReducer(deskReducer, emptyDesk);
  const search = useRef<HTMLInputElement>(null);
  const commands = useCommands(desk.id);
  const { live, lost } = useTally(desk.id);
  const tally = live?.tally;
  // The marks move while texts go out; the rows in sight are asked for again with each entry of the ledger.
  const stamp = tally ? `${tally.version}/${tally.entry}` : String(desk.version);
  const { refresh } = commands;
  useEffect(() => {
    if (tally && tally.version > desk.version) refresh();
  }, [tally, desk.version, refresh]);
  const { slip, standing } = useRow(desk.id, state.row, stamp);
  const chooseRow = useCallback((row: number) => dispatch({ type: "row chosen", row }), []);
  useActions("desk", useRowActions(desk.rows, dispatch, search));

  const active = tally?.stage === "sending" || tally?.stage === "paused";
  const next = active && state.following ? (tally.next?.row ?? null) : null;
  useEffect(() => {
    if (next !== null) dispatch({ type: "row followed", row: next });
  }, [next]);
  return (
    <main className="flex min-h-0 flex-1 flex-col px-5 pt-2.5 pb-3.5">
      <Heading key={`${desk.id}/${desk.title}`} desk={desk} onSetup={commands.setUp}>
        {tally?.stage === "sending" && <Button onClick={() => commands.send("pause")}>Pause</Button>}
        {tally?.stage === "paused" && <Button onClick={() => commands.send("go-on")}>Go on</Button>}
        {active && <StopButton tally={tally} onStop={() => commands.send("stop")} />}
        <SaveMenu roundId={desk.id} started onRemove={nothing} />
      </Heading>
      {live && (
        <div className="pb-3">
          <TallyPanel live={live} desk={desk} lost={lost} />
        </div>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_404px] gap-3.5">
        <SheetPaper
          desk={desk}
          counts={tally?.counts ?? desk.counts}
          state={state}
          dispatch={dispatch}
          stamp={stamp}
          follow={next}
          following={active ? state.following : null}
          search={search}
          onRow={chooseRow}
          onColumn={nothing}
          onFormula={nothing}
          onMend={nothing}
        />
        <div className="flex min-h-0 flex-col gap-3 overflow-auto p-px">
          <SlipPanel
            slip={slip}
            standing={standing}
            stale={false}
            row={state.row}
            rows={desk.rows}
            line={desk.line}
            sent
            onStep={(by) => dispatch({ type: "row stepped", by, rows: desk.rows })}
            onKeep={nothing}
          />
          {tally && (
            <Settle
              tally={tally}
              line={desk.line}
              onAgain={commands.again}
              onAsk={commands.ask}
              onFailed={() => dispatch({ type: "mark chosen", mark: "Failed" })}
            />
          )}
        </div>
      </div>
    </main>
  );
}
