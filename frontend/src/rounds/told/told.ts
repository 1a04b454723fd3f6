/** What is to be told of rounds that are under way: which have ended, paused by themselves, or are stuck. */

import type { RoundInList } from "../../api/client.ts";

export type Told = { id: number; title: string; words: string };

/** What changed between two looks at the list that whoever is elsewhere should hear of. */
export function newsOf(before: RoundInList[], now: RoundInList[]): Told[] {
  const then = new Map(before.map((round) => [round.id, round]));
  const found: Told[] = [];
  for (const round of now) {
    const was = then.get(round.id);
    if (!was) continue;
    const say = (words: string) => found.push({ id: round.id, title: round.title, words });
    if (was.stage === "sending" && round.stage === "finished") say("done");
    else if (["paused by itself", "stuck"].includes(round.under_way ?? "") && was.under_way !== round.under_way) say(round.says);
  }
  return found;
}
