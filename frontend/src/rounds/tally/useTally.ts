import { withValue } from "../../api/key.ts";
import { skipToken, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Tally } from "../../api/client.ts";
import { newestTally } from "../../api/newest.ts";

/** A tally, and when it came by the clock of the page, against which the seconds are counted down. */
export type LiveTally = { tally: Tally; receivedAt: number };

export const tallyKey = (roundId: number) => ["tally", roundId];

export const received = (tally: Tally): LiveTally => ({ tally, receivedAt: performance.now() });

const newestLive = (kept: LiveTally | undefined, came: LiveTally): LiveTally =>
  kept && newestTally(kept.tally, came.tally) === kept.tally ? kept : came;

/**
 * The tally as it happens. Every event is a whole picture, so a reload or a lost connection only costs the time between.
 * `lost` is true while the program cannot be reached.
 */
export function useTally(roundId: number): { live: LiveTally | null; lost: boolean } {
  const queries = useQueryClient();
  const [lost, setLost] = useState(false);
  const { data: live = null } = useQuery<LiveTally>({
    queryKey: tallyKey(roundId),
    queryFn: skipToken,
    structuralSharing: (kept, came) => newestLive(kept as LiveTally | undefined, came as LiveTally),
  });
  useEffect(() => {
    let source: EventSource | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      source = new EventSource(withValue(`/api/rounds/${roundId}/events`));
      source.addEventListener("tally", (event) => {
        setLost(false);
        queries.setQueryData(tallyKey(roundId), received(JSON.parse((event as MessageEvent<string>).data) as Tally));
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
  }, [roundId, queries]);
  return { live, lost };
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
