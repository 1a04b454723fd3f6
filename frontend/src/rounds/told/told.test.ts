import assert from "node:assert/strict";
import { test } from "vitest";
import type { RoundInList } from "../../api/client.ts";
import { newsOf } from "./told.ts";

const round = (part: Partial<RoundInList>) => ({ id: 1, title: "Dues", stage: "sending", says: "sending", ...part }) as RoundInList;

const CASES: [string, Partial<RoundInList>, Partial<RoundInList>, string | null][] = [
  ["done", {}, { stage: "finished", says: "" }, "done"],
  ["paused by the program", {}, { stage: "paused", says: "paused by the program: three failed alike" }, "paused by the program: three failed alike"],
  ["paused by hand is no news", {}, { stage: "paused", says: "paused by hand" }, null],
  ["stopped by hand is no news", {}, { stage: "stopped", says: "" }, null],
  ["stuck", {}, { says: "waiting: the carrier has trouble" }, "waiting: the carrier has trouble"],
  ["still stuck is told once", { says: "waiting: the carrier has trouble" }, { says: "waiting: the carrier has trouble" }, null],
  ["waiting for its hours is no news", {}, { says: "waiting until tomorrow 9:00" }, null],
  ["no sender", {}, { says: "nothing leaves: no sender runs" }, "nothing leaves: no sender runs"],
  ["finished before", { stage: "finished", says: "" }, { stage: "finished", says: "" }, null],
];

for (const [name, was, is, words] of CASES)
  test(name, () => assert.deepEqual(newsOf([round(was)], [round(is)]).map((told) => told.words), words === null ? [] : [words]));

test("a round that was not there before is no news", () => assert.deepEqual(newsOf([], [round({ stage: "finished" })]), []));
