import { useCallback, useEffect, useState } from "react";
import type { Tally } from "../../api/client.ts";
import { newestTally } from "../../api/newest.ts";

export type LiveTally = { tally: Tally; receivedAt: number };

/**
 * The tally as it happens. Every event is a whole picture, so a reload or a lost connection only costs the time between.
 * `lost` is true while the program cannot be reached.
 */
export function useTally(roundId: number, on: boolean): { live: LiveTally | null; lost: boolean; put: (t: Tally) => void } {
  const [live, setLive] = useState<LiveTally | null>(null);
  const [lost, setLost] = useState(false);
  const put = useCallback(
    (came: Tally) =>
      setLive((kept) => (newestTally(kept?.tally, came) === came ? { tally: came, receivedAt: performance.now() } : kept)),
    [],
  );
  useEffect(() => {
    if (!on) return undefined;
    let source: EventSource | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      source = new EventSource(`/api/rounds/${roundId}/events`);
      source.addEventListener("tally", (event) => {
        setLost(false);
        put(JSON.parse((event as MessageEvent<string>).data) as Tally);
      });
      source.onerror = () => {
        setLost(true);
        // The browser tries again by itself, except where it gave up.
        if (source?.readyState === EventSource.CLOSED) again = setTimeout(open, 2000);
      };
    };
    open();
    return () => {
      clearTimeout(again);
      source?.close();
    };
  }, [roundId, on, put]);
  return { live, lost, put };
}

/** Whole seconds until the next text, counted down from what the program last said. */
export const useCountdown = (live: LiveTally | null): number | null =>
  useCountdownTo(live?.tally.next_in_ms ?? null, live?.receivedAt ?? 0);

/** Whole seconds left of a wait that was `ms` long at `receivedAt`; null where nothing is waited for. */
export function useCountdownTo(ms: number | null, receivedAt: number): number | null {
  const [now, setNow] = useState(() => performance.now());
  const counting = ms != null;
  useEffect(() => {
    if (!counting) return undefined;
    const timer = setInterval(() => setNow(performance.now()), 250);
    return () => clearInterval(timer);
  }, [counting, receivedAt]);
  if (ms == null) return null;
  return Math.max(0, Math.ceil((ms - Math.max(0, now - receivedAt)) / 1000));
}
