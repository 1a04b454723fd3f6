import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { api, sentenceOf, told, Trouble, type KeptRow, type ColumnChange, type ComputedIn, type Desk, type Mend, type PasteIn, type SetupIn, type StretchMade, type Tally, type WordingPut, type WordingTaken } from "../../api/client.ts";
import { newest } from "../../api/newest.ts";
import type { InCell, Order } from "../../state/outbox.ts";
import { order, outbox } from "../../state/sending.ts";
import { tellOthers } from "../../api/news.ts";
import { focusSoon, handAtRest } from "../../ui/focus.ts";
import { counted, sentenceCase } from "../../ui/format.ts";
import { received, tallyKey } from "../tally/useTally.ts";
import { useNotices } from "../../ui/notices.tsx";

export type Keeping = { left_out?: boolean; released?: boolean; reason?: string };

/** What follows on a change; `rested` says that the hand has done nothing since it asked for it. */
export type Then = (found: Desk, rested: boolean) => void;

/** A change that another window made, of which is asked before it is taken back or done again. */
export type NotHere = { which: "undo" | "redo"; change: number; what: string };

type Asking<T> = {
  then?: (done: T, rested: boolean) => void;
  cell?: InCell | null;
  /** The version that was shown when it was written, where that is not the one that is shown now. */
  seen?: number | undefined;
  /** True where the refusal was dealt with, and nothing more is to be said of it. */
  refused?: (error: unknown) => boolean;
};

const NAMES: Record<string, string> = { title: "the name of the round", pace: "the pace", checks: "what is checked", sender: "who writes", leave_out: "the rules", combine: "how rows are combined", lookups: "the tables" };

/** The settings of the round in words. */
const settingsOf = (body: SetupIn): string => Object.keys(body).map((name) => NAMES[name] ?? "the set-up of the round").join(", ");

const clipped = (text: string): string => (text.length > 40 ? `${text.slice(0, 39)}…` : text);

/**
 * All that can be done to a round. What changes it is kept on this machine until the program has it, and sent in order;
 * of the answers the one with the newest version stands. What the program refuses is said, and the round is asked for
 * again.
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
  /** Asks for a change, for as long as it takes; null where it was refused, or given up. */
  const ask = useCallback(
    async <T>(asked: Order, label: string, { then, cell = null, seen, refused }: Asking<T> = {}): Promise<T | null> => {
      const rested = handAtRest();
      const desk = queries.getQueryData<Desk>(["desk", id]);
      const known = { round: id, uid: desk?.uid ?? "", seen: seen ?? desk?.version ?? 0 };
      const settled = await outbox.add({ ...known, order: asked, label, cell });
      if (settled.kind === "done") {
        const done = settled.answer as T;
        tellOthers(id);
        then?.(done, rested());
        return done;
      }
      // What was typed is said with why it is not kept: it stands nowhere else any more.
      if (settled.kind === "refused" && !refused?.(settled.error))
        notices.trouble(cell ? new Trouble(`${sentenceOf(settled.error)} Not kept: ${label}.`, "not kept") : settled.error);
      refresh();
      return null;
    },
    [id, queries, notices, refresh],
  );
  return useMemo(() => {
    const params = { path: { round_id: id } };
    const changed =
      (then?: Then) =>
      (found: Desk, rested: boolean): void => {
        show(found);
        then?.(found, rested);
      };
    const desk = (asked: Order, label: string, then?: Then) => ask<Desk>(asked, label, { then: changed(then) });
    /** Takes one change back, if nothing else was changed since. */
    const takeBack = (change: number | null | undefined) => {
      if (change != null)
        void desk(order("post", "/api/rounds/{round_id}/undo", { params: { ...params, query: { change } } }), "undoing a change");
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
    const takeBackSending = (then: () => void) => void run(() => told(api.POST("/api/rounds/{round_id}/take-back", { params })), changed(then));
    const keep = (number: number, body: Keeping, then?: () => void) => {
      const said = body.released ? "will be sent all the same" : body.released === false ? "is held again" : body.left_out ? "is left out" : "is taken back";
      void ask<KeptRow>(order("patch", "/api/rounds/{round_id}/rows/{number}", { params: { path: { round_id: id, number } }, body }), `that row ${number} ${said}`, {
        then: (row) => {
          refresh();
          then?.();
          notices.done(`Row ${number} ${said}.`, () => takeBack(row.change));
        },
      });
    };
    const walking = (which: "undo" | "redo", query: { change?: number; upto?: number }, onNotHere?: (asked: NotHere) => void) =>
      ask<Desk>(order("post", `/api/rounds/{round_id}/${which}`, { params: { ...params, query } }), which === "undo" ? "undoing" : "doing again", {
        then: changed(),
        refused: (error) => {
          if (!(error instanceof Trouble) || error.kind !== "not done here" || !onNotHere) return false;
          onNotHere({ which, change: Number(error.more["change"]), what: String(error.more["what"]) });
          return true;
        },
      });
    const seen = (found: Tally) => {
      queries.setQueryData(tallyKey(id), received(found));
      refresh();
    };
    return {
      show,
      refresh,
      takeBackSending,
      setColumn: (name: string, change: ColumnChange) =>
        void desk(order("patch", "/api/rounds/{round_id}/columns", { params, body: { name, ...change } }), `what the column ${name} is for`),
      /**
       * `was` is what stood there as it was shown, in the version `seen`: what another window wrote there meanwhile is
       * not covered.
       */
      mend: (number: number, column: string, typed: string, was?: string, then?: Then, seen?: number) => {
        const body = { column, typed, ...(was === undefined ? {} : { was }) };
        void ask<Desk>(
          order("patch", "/api/rounds/{round_id}/rows/{number}/cells", { params: { path: { round_id: id, number } }, body }),
          `“${clipped(typed)}” in row ${number}, ${column}`,
          { then: changed(then), seen, ...(was === undefined ? {} : { cell: { row: number, column, typed, was } }) },
        );
      },
      changeCells: (act: "empty" | "fill", rows: number[], columns: string[]) =>
        void desk(
          order("post", "/api/rounds/{round_id}/cells", { params, body: { act, rows, columns } }),
          `${act === "empty" ? "emptying" : "filling down"} ${counted(rows.length * columns.length, "cell")}`,
          cellsChanged,
        ),
      /** Pastes a block; true when it has to be shown first what it covers. What does not fit is said. */
      paste: async (body: PasteIn): Promise<boolean> => {
        let first = false;
        await ask<Desk>(order("post", "/api/rounds/{round_id}/cells/paste", { params, body }), `a block pasted into row ${body.rows[0] ?? ""}`, {
          then: changed(cellsChanged),
          refused: (error) => (first = error instanceof Trouble && error.kind === "see first"),
        });
        return first;
      },
      /** Takes the last change back, once what came `before` is done; null where that is refused, or is asked about. */
      undo: async (before: Promise<void>, onNotHere: (asked: NotHere) => void) => {
        await before;
        // What is only here is taken back here.
        if (outbox.takeBack(id)) return null;
        return walking("undo", {}, onNotHere);
      },
      /** Takes back, or does again, every change down or up to the one with that number. */
      walk: (which: "undo" | "redo", upto: number, before: Promise<void>) => before.then(() => walking(which, { upto })),
      /** The same of the one change that was asked about. */
      walkOne: ({ which, change }: NotHere) => walking(which, { change }),
      redo: async (before: Promise<void>, onNotHere: (asked: NotHere) => void) => {
        await before;
        return walking("redo", {}, onNotHere);
      },
      addRow: (then: Then) => desk(order("post", "/api/rounds/{round_id}/rows", { params }), "a new row", then),
      match: (name: string, column: string) =>
        void desk(order("post", "/api/rounds/{round_id}/columns/match", { params, body: { name, column } }), `that ${column} is taken for ${name}`, onToBeSaid),
      forget: (name: string) =>
        void desk(order("post", "/api/rounds/{round_id}/columns/forget", { params, body: { name } }), `doing without ${name}`, onToBeSaid),
      sayDoubled: (name: string, computed: boolean) =>
        void desk(order("post", "/api/rounds/{round_id}/columns/doubled", { params, body: { name, computed } }), `which ${name} counts`),
      saySent: (name: string, leave_out: boolean) =>
        void desk(order("post", "/api/rounds/{round_id}/columns/sent", { params, body: { name, leave_out } }), `what ${name} says was sent`),
      sayTogether: (row: number, version: number, then: Then = onToBeSaid) =>
        void desk(order("post", "/api/rounds/{round_id}/together", { params, body: { row, version } }), "which rows belong together", then),
      mendRecipe: () => void desk(order("post", "/api/rounds/{round_id}/recipe/mend", { params }), "going on without what cannot be used"),
      putComputed: (body: ComputedIn, then: Then) =>
        void desk(order("put", "/api/rounds/{round_id}/columns/computed", { params, body }), `the computed column ${body.name}`, then),
      removeComputed: (name: string, then: Then) =>
        void desk(
          order("delete", "/api/rounds/{round_id}/columns/computed", { params: { ...params, query: { name } } }),
          `removing the column ${name}`,
          (found, rested) => {
            then(found, rested);
            notices.done(`The column ${name} is removed.`, () => takeBack(found.change));
          },
        ),
      putWording: (body: WordingPut, then: Then) =>
        void desk(order("put", "/api/rounds/{round_id}/wordings", { params, body }), `the wording ${body.name}`, then),
      removeWording: (name: string, then: Then) =>
        void desk(
          order("delete", "/api/rounds/{round_id}/wordings", { params: { ...params, query: { name } } }),
          `removing the wording ${name}`,
          (found, rested) => {
            then(found, rested);
            notices.done(`The wording ${name} is removed.`, () => takeBack(found.change));
          },
        ),
      orderWordings: (names: string[]) =>
        void desk(order("post", "/api/rounds/{round_id}/wordings/order", { params, body: { names } }), "in which order the wordings are tried"),
      makeStretch: (body: StretchMade, then: Then) =>
        void desk(order("post", "/api/rounds/{round_id}/wordings/stretch", { params, body }), "words for some rows", then),
      takeWording: (body: WordingTaken, then: Then) =>
        void desk(
          order("post", "/api/rounds/{round_id}/drawer/take", { params, body }),
          "taking a wording out of the drawer",
          (found, rested) => {
            then(found, rested);
            if (found.change != null) notices.done("The wording is taken out.", () => takeBack(found.change));
          },
        ),
      replaceCharacters: (characters: string) =>
        void desk(
          order("post", "/api/rounds/{round_id}/weight/replace", { params, body: { characters } }),
          "plain characters",
          (found) => notices.done("Plain characters stand there now.", () => takeBack(found.change)),
        ),
      /** Does something about the rows of a finding as they were shown: of all of them, or of one. */
      mendFinding: (check: string, mend: Mend, version: number, row: number | null, then?: Then) =>
        void desk(
          order("post", "/api/rounds/{round_id}/findings/mend", { params, body: { check, mend, version, row } }),
          "mending what was found",
          (found, rested) => {
            then?.(found, rested);
            if (found.change != null) notices.done(mend === "leave out" ? "These rows are left out." : "The spaces are closed up.", () => takeBack(found.change));
          },
        ),
      setUp: (body: SetupIn, then?: Then) => void desk(order("patch", "/api/rounds/{round_id}", { params, body }), settingsOf(body), then),
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
  }, [id, run, ask, show, refresh, notices, queries]);
}

export type Commands = ReturnType<typeof useCommands>;
