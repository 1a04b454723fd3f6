import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { api, told, Trouble, type ColumnChange, type ComputedIn, type Desk, type Mend, type PasteIn, type SetupIn, type StretchMade, type Tally, type WordingPut, type WordingTaken } from "../../api/client.ts";
import { newest } from "../../api/newest.ts";
import { tellOthers } from "../../api/news.ts";
import { focusSoon, handAtRest } from "../../ui/focus.ts";
import { counted, sentenceCase } from "../../ui/format.ts";
import { received, tallyKey } from "../tally/useTally.ts";
import { useNotices } from "../../ui/notices.tsx";

export type Keeping = { left_out?: boolean; released?: boolean; reason?: string };

/** What follows on a change; `rested` says that the hand has done nothing since it asked for it. */
export type Then = (found: Desk, rested: boolean) => void;

/**
 * All that can be done to a round. Commands go out one after the other; of the answers the one with the newest version
 * stands. What the program refuses is said, and the round is asked for again.
 */
export function useCommands(id: number) {
  const queries = useQueryClient();
  const notices = useNotices();
  const { mutateAsync } = useMutation({
    mutationFn: (asking: () => Promise<unknown>) => asking(),
    // One after the other: none begins before the one before it is done, whether it went well or not.
    scope: { id: `round ${id}` },
    networkMode: "always",
  });
  const refresh = useCallback(() => void queries.invalidateQueries({ queryKey: ["desk", id] }), [queries, id]);
  const show = useCallback(
    (came: Desk) => void queries.setQueryData<Desk>(["desk", id], (kept) => newest(kept, came)),
    [queries, id],
  );
  const run = useCallback(
    async <T>(asking: () => Promise<T>, then?: (done: T, rested: boolean) => void): Promise<T | null> => {
      const rested = handAtRest();
      try {
        const done = (await mutateAsync(asking)) as T;
        tellOthers(id);
        then?.(done, rested());
        return done;
      } catch (error) {
        notices.trouble(error);
        refresh();
        return null;
      }
    },
    [id, mutateAsync, notices, refresh],
  );
  return useMemo(() => {
    const params = { path: { round_id: id } };
    const changed =
      (then?: Then) =>
      (found: Desk, rested: boolean): void => {
        show(found);
        then?.(found, rested);
      };
    const desk = (asking: () => Promise<Desk>, then?: Then) => void run(asking, changed(then));
    /** Takes one change back, if nothing else was changed since. */
    const takeBack = (change: number | null | undefined) => {
      if (change != null)
        desk(() => told(api.POST("/api/rounds/{round_id}/undo", { params: { ...params, query: { change } } })));
    };
    const cellsChanged = (found: Desk) => {
      if (found.change != null) notices.done(`${sentenceCase(found.undo ?? "changed")}: done.`, () => takeBack(found.change));
      else notices.done("The same stands there already.");
    };
    // The next thing that is asked; where nothing more is, the sheet.
    const onToBeSaid: Then = (_, rested) => {
      if (rested) focusSoon("to be said", "sheet");
    };
    /** Brings a round of which nothing went back to being prepared. */
    const takeBackSending = (then: () => void) => desk(() => told(api.POST("/api/rounds/{round_id}/take-back", { params })), then);
    const keep = (number: number, body: Keeping, then?: () => void) => {
      const said = body.released ? "will be sent all the same" : body.released === false ? "is held again" : body.left_out ? "is left out" : "is taken back";
      void run(
        () => told(api.PATCH("/api/rounds/{round_id}/rows/{number}", { params: { path: { round_id: id, number } }, body })),
        (row) => {
          refresh();
          then?.();
          notices.done(`Row ${number} ${said}.`, () => takeBack(row.change));
        },
      );
    };
    const seen = (found: Tally) => {
      queries.setQueryData(tallyKey(id), received(found));
      refresh();
    };
    return {
      show,
      refresh,
      takeBackSending,
      setColumn: (name: string, change: ColumnChange) =>
        desk(() => told(api.PATCH("/api/rounds/{round_id}/columns", { params, body: { name, ...change } }))),
      /** `was` is what stood there as it was shown: what another window wrote there meanwhile is not covered. */
      mend: (number: number, column: string, typed: string, was?: string, then?: Then) =>
        desk(
          () =>
            told(
              api.PATCH("/api/rounds/{round_id}/rows/{number}/cells", {
                params: { path: { round_id: id, number } },
                body: { column, typed, ...(was === undefined ? {} : { was }) },
              }),
            ),
          then,
        ),
      changeCells: (act: "empty" | "fill", rows: number[], columns: string[]) =>
        desk(
          () => told(api.POST("/api/rounds/{round_id}/cells", { params, body: { act, rows, columns } })),
          cellsChanged,
        ),
      /** Pastes a block; true when it has to be shown first what it covers. What does not fit is said. */
      paste: async (body: PasteIn): Promise<boolean> => {
        try {
          const found = (await mutateAsync(() => told(api.POST("/api/rounds/{round_id}/cells/paste", { params, body })))) as Desk;
          tellOthers(id);
          show(found);
          cellsChanged(found);
          return false;
        } catch (error) {
          if (error instanceof Trouble && error.kind === "see first") return true;
          notices.trouble(error);
          return false;
        }
      },
      /** Takes the last change back, once what came `before` is done; null where that is refused. */
      undo: (before: Promise<void>) =>
        run(() => before.then(() => told(api.POST("/api/rounds/{round_id}/undo", { params }))), changed()),
      /** Takes back, or does again, every change down or up to the one with that number. */
      walk: (which: "undo" | "redo", upto: number, before: Promise<void>) =>
        run(
          () => before.then(() => told(api.POST(`/api/rounds/{round_id}/${which}`, { params: { ...params, query: { upto } } }))),
          changed(),
        ),
      redo: (before: Promise<void>) =>
        run(() => before.then(() => told(api.POST("/api/rounds/{round_id}/redo", { params }))), changed()),
      addRow: (then: Then) => run(() => told(api.POST("/api/rounds/{round_id}/rows", { params })), changed(then)),
      match: (name: string, column: string) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/columns/match", { params, body: { name, column } })), onToBeSaid),
      forget: (name: string) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/columns/forget", { params, body: { name } })), onToBeSaid),
      sayDoubled: (name: string, computed: boolean) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/columns/doubled", { params, body: { name, computed } }))),
      saySent: (name: string, leave_out: boolean) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/columns/sent", { params, body: { name, leave_out } }))),
      sayTogether: (row: number, version: number, then: Then = onToBeSaid) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/together", { params, body: { row, version } })), then),
      mendRecipe: () => desk(() => told(api.POST("/api/rounds/{round_id}/recipe/mend", { params }))),
      putComputed: (body: ComputedIn, then: Then) =>
        desk(() => told(api.PUT("/api/rounds/{round_id}/columns/computed", { params, body })), then),
      removeComputed: (name: string, then: Then) =>
        desk(
          () => told(api.DELETE("/api/rounds/{round_id}/columns/computed", { params: { ...params, query: { name } } })),
          (found, rested) => {
            then(found, rested);
            notices.done(`The column ${name} is removed.`, () => takeBack(found.change));
          },
        ),
      putWording: (body: WordingPut, then: Then) =>
        desk(() => told(api.PUT("/api/rounds/{round_id}/wordings", { params, body })), then),
      removeWording: (name: string, then: Then) =>
        desk(
          () => told(api.DELETE("/api/rounds/{round_id}/wordings", { params: { ...params, query: { name } } })),
          (found, rested) => {
            then(found, rested);
            notices.done(`The wording ${name} is removed.`, () => takeBack(found.change));
          },
        ),
      orderWordings: (names: string[]) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/wordings/order", { params, body: { names } }))),
      makeStretch: (body: StretchMade, then: Then) =>
        desk(() => told(api.POST("/api/rounds/{round_id}/wordings/stretch", { params, body })), then),
      takeWording: (body: WordingTaken, then: Then) =>
        desk(
          () => told(api.POST("/api/rounds/{round_id}/drawer/take", { params, body })),
          (found, rested) => {
            then(found, rested);
            if (found.change != null) notices.done("The wording is taken out.", () => takeBack(found.change));
          },
        ),
      replaceCharacters: (characters: string) =>
        desk(
          () => told(api.POST("/api/rounds/{round_id}/weight/replace", { params, body: { characters } })),
          (found) => notices.done("Plain characters stand there now.", () => takeBack(found.change)),
        ),
      /** Does something about the rows of a finding as they were shown: of all of them, or of one. */
      mendFinding: (check: string, mend: Mend, version: number, row: number | null, then?: Then) =>
        desk(
          () => told(api.POST("/api/rounds/{round_id}/findings/mend", { params, body: { check, mend, version, row } })),
          (found, rested) => {
            then?.(found, rested);
            if (found.change != null) notices.done(mend === "leave out" ? "These rows are left out." : "The spaces are closed up.", () => takeBack(found.change));
          },
        ),
      setUp: (body: SetupIn, then?: Then) => desk(() => told(api.PATCH("/api/rounds/{round_id}", { params, body })), then),
      keep,
      send: (name: "pause" | "stop") => void run(() => told(api.POST(`/api/rounds/{round_id}/${name}`, { params })), seen),
      /** `looked`: why the round has to be looked at first stood on the page when it was pressed. */
      goOn: (looked: boolean) => void run(() => told(api.POST("/api/rounds/{round_id}/go-on", { params, body: { looked } })), seen),
      again: (which: "failed" | "stopped", texts: number, seal: string, looked: boolean) =>
        void run(() => told(api.POST("/api/rounds/{round_id}/again", { params, body: { which, texts, seal, looked, all_the_same: false } })), seen),
      /** Settles unsure texts by somebody's word: those of one row, or all. */
      settle: (went: boolean, reason: string, texts: number, rows: number[] | null) =>
        void run(
          () => told(api.POST("/api/rounds/{round_id}/settle", { params, body: { went, reason, texts, rows } })),
          (found) => {
            notices.done(`${counted(texts, "text")} settled by hand as ${went ? "sent" : "not sent"}.`);
            seen(found);
          },
        ),
      goByLine: (identity: string, texts: number) =>
        void run(() => told(api.POST("/api/rounds/{round_id}/line", { params, body: { identity, texts } })), seen),
      keepBack: () => void run(() => told(api.POST("/api/rounds/{round_id}/keep-back", { params })), seen),
      ask: () =>
        void run(
          () => told(api.POST("/api/rounds/{round_id}/ask", { params })),
          (found) => {
            notices.done(`The carrier is being asked about ${counted(found.unsure, "text")}.`);
            seen(found);
          },
        ),
      seen,
      remove: (then: () => void) =>
        void run(
          () => told(api.DELETE("/api/rounds/{round_id}", { params })),
          () => {
            void queries.invalidateQueries({ queryKey: ["rounds"] });
            then();
          },
        ),
    };
  }, [id, run, show, refresh, notices, queries, mutateAsync]);
}

export type Commands = ReturnType<typeof useCommands>;
