/** What one window of a browser tells the others: that a round was changed or removed. Other browsers look by themselves. */

const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("gentle-ledger");

export const tellOthers = (roundId: number): void => channel?.postMessage(roundId);

/** Calls `heard` with the number of each round that another window changed; what it gives back ends that. */
export function hearOthers(heard: (roundId: number) => void): () => void {
  const listen = (event: MessageEvent<unknown>) => typeof event.data === "number" && heard(event.data);
  channel?.addEventListener("message", listen);
  return () => channel?.removeEventListener("message", listen);
}
