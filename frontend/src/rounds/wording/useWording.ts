import { useCallback, useEffect, useRef, useState } from "react";
import { NO_ANSWER, type WordingOut } from "../../api/client.ts";
import { Keeper, type Outcome } from "./keeper.ts";

const SETTLED_AFTER = 400;
const TRY_AGAIN_AFTER = 2000;

async function put(roundId: number, row: number, wording: string): Promise<Outcome<WordingOut>> {
  try {
    const response = await fetch(`/api/rounds/${roundId}/wording`, {
      method: "PUT",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ wording, row }),
      // The words survive a reload that comes while they are on their way.
      keepalive: wording.length < 10_000,
    });
    const body = (await response.json()) as WordingOut & { detail?: string };
    return response.ok ? { kind: "kept", answer: body } : { kind: "refused", sentence: body.detail ?? NO_ANSWER };
  } catch {
    return { kind: "unreachable" };
  }
}

/**
 * Keeps the wording as it is typed, and holds the slip that each keystroke is answered with. `onSettled` is called when
 * typing has rested, to count all rows anew.
 */
export function useWording(roundId: number, row: number, onSettled: () => void) {
  const [answer, setAnswer] = useState<WordingOut | null>(null);
  const [said, setSaid] = useState("");
  const current = useRef({ row, onSettled });
  useEffect(() => {
    current.current = { row, onSettled };
  }, [row, onSettled]);

  const keeper = useRef<Keeper<WordingOut> | null>(null);
  useEffect(() => {
    let rest: ReturnType<typeof setTimeout> | undefined;
    keeper.current = new Keeper<WordingOut>(
      (wording) => put(roundId, current.current.row, wording),
      {
        kept: (kept) => {
          setSaid("");
          setAnswer(kept);
          clearTimeout(rest);
          rest = setTimeout(() => current.current.onSettled(), SETTLED_AFTER);
        },
        refused: (sentence) => setSaid(`Not kept: ${sentence}`),
        unreachable: () => setSaid("Not kept yet: the program does not answer. Trying again…"),
      },
      () => new Promise((done) => setTimeout(done, TRY_AGAIN_AFTER)),
    );
    return () => clearTimeout(rest);
  }, [roundId]);

  const type = useCallback((wording: string) => void keeper.current?.type(wording), []);
  return { answer, said, type };
}
