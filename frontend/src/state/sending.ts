import type { PathsWithMethod } from "openapi-typescript-helpers";
import type { MaybeOptionalInit } from "openapi-fetch";
import { useCallback, useSyncExternalStore } from "react";
import { api, NO_ANSWER, Trouble } from "../api/client.ts";
import type { paths } from "../api/schema.d.ts";
import { keepUnder, keptBelow } from "./durable.ts";
import { Outbox, type Conflict, type Entry, type Order, type Outcome, type Settled, type Shown } from "./outbox.ts";

/** How long an answer may take before the program is asked once more, in ms: it does the same thing once all the same. */
const ANSWERS_WITHIN = 30_000;
const RESTS = [300, 700, 1_500, 3_000];
/** Statuses of what passes by itself (RFC 9110, 15.6), of a disk without room (RFC 4918, 11.5), and of a key that is missing. */
const PASSING = new Set([401, 500, 502, 503, 504, 507]);

type Method = Order["method"];

/** What the program is asked for, checked against its own description. */
export function order<M extends Method, P extends PathsWithMethod<paths, M>>(method: M, path: P, init: NonNullable<MaybeOptionalInit<paths[P], M>>): Order {
  return { method, path: path as string, init: init as Order["init"] };
}

type Bare = (method: Method, path: string, init: object) => Promise<{ data?: unknown; error?: unknown; response: Response }>;

async function send(entry: Entry): Promise<Outcome> {
  const { method, path, init } = entry.order;
  const headers = { "Idempotency-Key": entry.key, "Gentle-Ledger-Round": entry.uid, "Gentle-Ledger-Seen": String(entry.seen) };
  try {
    const { data, error, response } = await (api.request as unknown as Bare)(method, path, {
      ...init,
      headers,
      signal: AbortSignal.timeout(ANSWERS_WITHIN),
    });
    if (response.ok) return { kind: "done", answer: data };
    const problem = (error ?? {}) as { detail?: string; kind?: string } & Partial<Conflict>;
    const sentence = problem.detail ?? NO_ANSWER;
    if (problem.kind === "behind" && problem.version !== undefined)
      return { kind: "behind", conflict: { sentence, places: problem.places ?? [], further: problem.further ?? 0, version: problem.version } };
    if (PASSING.has(response.status)) return { kind: "unreachable", sentence };
    return { kind: "refused", error: new Trouble(sentence, problem.kind ?? "", problem) };
  } catch {
    return { kind: "unreachable", sentence: NO_ANSWER };
  }
}

/** Waits, or until the machine is on its network again. */
const rest = (times: number): Promise<void> =>
  new Promise((done) => {
    const over = () => {
      clearTimeout(waited);
      window.removeEventListener("online", over);
      done();
    };
    const waited = setTimeout(over, RESTS[Math.min(times, RESTS.length) - 1]);
    window.addEventListener("online", over);
  });

let ended: (entry: Entry, settled: Settled) => void = () => undefined;

/** Has somebody told how what an earlier page left unsent ended. */
export const onEnded = (listener: typeof ended): void => {
  ended = listener;
};

export const outbox = new Outbox({
  store: { below: keptBelow, keep: keepUnder },
  send,
  rest,
  newKey: () => crypto.getRandomValues(new Uint32Array(4)).join("-"),
  ended: (entry, settled) => ended(entry, settled),
});

/** What is not kept yet of a round. */
export function useUnsent(round: number): Shown {
  return useSyncExternalStore(
    outbox.listen,
    useCallback(() => outbox.shown(round), [round]),
  );
}
