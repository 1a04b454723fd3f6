import { useCallback, useEffect, useRef, useState } from "react";
import { NO_ANSWER, type Desk, type Slip, type WordingOut } from "../../api/client.ts";

const SETTLED_AFTER = 250;
const TRY_AGAIN_AFTER = 2000;

type Kept = { problems: Desk["wording_problems"]; slip: Slip; version: number };

/**
 * Keeps the wording as it is typed: one request at a time, always the newest words next, so that none overtakes another.
 * `onSettled` is called when typing has rested, to count all rows anew.
 */
export function useWording(roundId: number, row: number, onSettled: () => void) {
  const [answer, setAnswer] = useState<Kept | null>(null);
  const [said, setSaid] = useState("");
  const newest = useRef<string | null>(null);
  const busy = useRef(false);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const current = useRef({ row, onSettled });
  useEffect(() => {
    current.current = { row, onSettled };
  }, [row, onSettled]);

  const keep = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    while (newest.current !== null) {
      const wording = newest.current;
      newest.current = null;
      try {
        // keepalive: the words survive a reload that comes while they are on their way.
        const response = await fetch(`/api/rounds/${roundId}/wording`, {
          method: "PUT",
          headers: { "Content-Type": "application/json" },
          body: JSON.stringify({ wording, row: current.current.row }),
          keepalive: wording.length < 10_000,
        });
        const body = (await response.json()) as WordingOut & { detail?: string };
        if (!response.ok) {
          setSaid(`Not kept: ${body.detail ?? NO_ANSWER}`);
          break;
        }
        setSaid("");
        setAnswer({ problems: body.wording_problems, slip: body.slip, version: body.version });
        clearTimeout(rest.current);
        rest.current = setTimeout(() => current.current.onSettled(), SETTLED_AFTER);
      } catch {
        newest.current ??= wording;
        setSaid("Not kept yet: the program does not answer. Trying again…");
        await new Promise((done) => setTimeout(done, TRY_AGAIN_AFTER));
      }
    }
    busy.current = false;
  }, [roundId]);

  const type = useCallback(
    (wording: string) => {
      newest.current = wording;
      void keep();
    },
    [keep],
  );
  return { answer, said, type };
}
