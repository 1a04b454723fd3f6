import assert from "node:assert/strict";
import { test } from "vitest";
import type { RoundInList } from "../../api/client.ts";
import { newsOf } from "./told.ts";

const round = (part: Partial<RoundInList>) => ({ id: 1, title: "Dues", stage: "sending", under_way: "sending", says: "sending", ...part }) as RoundInList;

const CASES: [string, Partial<RoundInList>, Partial<RoundInList>, string | null][] = [
  ["done", {}, { stage: "finished", under_way: null, says: "" }, "done"],
  ["paused by the program", {}, { stage: "paused", under_way: "paused by itself", says: "paused by the program: three failed alike" }, "paused by the program: three failed alike"],
  ["paused by hand is no news", {}, { stage: "paused", under_way: "paused", says: "paused by hand" }, null],
  ["stopped by hand is no news", {}, { stage: "stopped", under_way: null, says: "" }, null],
  ["stuck", {}, { under_way: "stuck", says: "waiting: the carrier has trouble" }, "waiting: the carrier has trouble"],
  ["still stuck is told once", { under_way: "stuck", says: "waiting: the carrier has trouble" }, { under_way: "stuck", says: "waiting: the carrier has trouble" }, null],
  ["waiting for its hours is no news", {}, { under_way: "waiting", says: "waiting until tomorrow 9:00" }, null],
  ["going on after being stuck is no news", { under_way: "stuck", says: "waiting: x" }, {}, null],
  ["finished before", { stage: "finished", under_way: null, says: "" }, { stage: "finished", under_way: null, says: "" }, null],
];

for (const [name, was, is, words] of CASES)
  test(name, () => assert.deepEqual(newsOf([round(was)], [round(is)]).map((told) => told.words), words === null ? [] : [words]));

test("a round that was not there before is no news", () => assert.deepEqual(newsOf([], [round({ stage: "finished" })]), []));
