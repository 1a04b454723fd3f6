import { useCallback, useEffect, useRef, useState } from "react";
import { NO_ANSWER, type WordingOut } from "../../api/client.ts";
import { ownHeader } from "../../api/key.ts";
import { keepUnder, keptUnder } from "../../state/durable.ts";
import { Keeper, type Left, type Outcome } from "./keeper.ts";

const SETTLED_AFTER = 400;
const TRY_AGAIN_AFTER = 2000;

/** The round by its number and its random id, and which of its wordings it is. */
type Written = { id: number; uid: string; of: string | null };

async function put({ id, uid, of }: Written, row: number, wording: string, was: string): Promise<Outcome<WordingOut>> {
  try {
    const response = await fetch(`/api/rounds/${id}/wording`, {
      method: "PUT",
      headers: { "Content-Type": "application/json", "Gentle-Ledger-Round": uid, ...ownHeader() },
      body: JSON.stringify({ of, wording, was, row }),
      // The words survive a reload that comes while they are on their way.
      keepalive: wording.length + was.length < 15_000,
    });
    const body = (await response.json()) as WordingOut & { detail?: string; theirs?: string };
    if (response.status === 409 && body.theirs !== undefined) return { kind: "behind", theirs: body.theirs };
    return response.ok ? { kind: "kept", answer: body } : { kind: "refused", sentence: body.detail ?? NO_ANSWER };
  } catch {
    return { kind: "unreachable" };
  }
}

const draftKey = (uid: string, of: string | null): string => `wording/${uid}/${of ?? ""}`;

/** The words that an earlier page, or a window that was closed, did not bring to the program; null for none. */
export const leftOf = (uid: string, of: string | null): Left | null => (keptUnder(draftKey(uid, of)) as Left | undefined) ?? null;

/**
 * Keeps the wording as it is typed, and holds the slip that each keystroke is answered with. `onSettled` is called when
 * typing has rested, to count all rows anew. `behind` has the wording of another window that stands in the program while
 * this one typed another. `of` is the wording's name, null for the one for all the rest.
 */
export function useWording(desk: Written & { wording: string }, row: number, onSettled: () => void) {
  const [answer, setAnswer] = useState<WordingOut | null>(null);
  const [said, setSaid] = useState("");
  const [behind, setBehind] = useState<string | null>(null);
  const current = useRef({ row, onSettled });
  useEffect(() => {
    current.current = { row, onSettled };
  }, [row, onSettled]);

  const keeper = useRef<Keeper<WordingOut> | null>(null);
  const stands = useRef(desk.wording);
  useEffect(() => {
    stands.current = desk.wording;
  }, [desk.wording]);
  useEffect(() => {
    let rest: ReturnType<typeof setTimeout> | undefined;
    const left = leftOf(desk.uid, desk.of);
    keeper.current = new Keeper<WordingOut>(
      stands.current,
      (wording, was) => put({ id: desk.id, uid: desk.uid, of: desk.of }, current.current.row, wording, was),
      {
        kept: (kept) => {
          setSaid("");
          setAnswer(kept);
          clearTimeout(rest);
          rest = setTimeout(() => current.current.onSettled(), SETTLED_AFTER);
        },
        refused: (sentence) => setSaid(`Not kept: ${sentence}`),
        behind: (theirs) => {
          setSaid("");
          setBehind(theirs);
        },
        unreachable: () => setSaid("Not kept yet: the program does not answer. Trying again…"),
        remember: (left) => keepUnder(draftKey(desk.uid, desk.of), left ?? undefined),
      },
      () => new Promise((done) => setTimeout(done, TRY_AGAIN_AFTER)),
    );
    if (left) keeper.current.goOn(left);
    return () => clearTimeout(rest);
  }, [desk.id, desk.uid, desk.of]);

  const type = useCallback((wording: string) => {
    void keeper.current?.type(wording);
  }, []);
  /** True when what the program has now may take the place of what this window shows. */
  const seen = useCallback((wording: string) => keeper.current?.seen(wording) ?? false, []);
  /** Resolves once all that was typed is kept: what is undone then is what stands there. */
  const settled = useCallback(() => keeper.current?.settled() ?? Promise.resolve(), []);
  const keepMine = useCallback(() => {
    if (behind !== null) keeper.current?.keepMine(behind);
    setBehind(null);
  }, [behind]);
  const takeTheirs = useCallback(() => {
    if (behind !== null) keeper.current?.takeTheirs(behind);
    setBehind(null);
    current.current.onSettled();
  }, [behind]);
  return { answer, said, behind, type, seen, settled, keepMine, takeTheirs };
}

export type KeptWording = ReturnType<typeof useWording>;
