import assert from "node:assert/strict";
import { test } from "vitest";
import { Outbox, settingIn, type Entry, type Outcome, type Settled } from "./outbox.ts";

const ENTRY = { round: 1, uid: "u", seen: 3, label: "it" };
const cell = (row: number, typed: string, was: string) => ({
  ...ENTRY,
  order: { method: "patch" as const, path: `/rows/${row}`, init: { params: {}, body: { typed, was } } },
  cell: { row, column: "Due", typed, was },
});
const other = (path: string) => ({ ...ENTRY, order: { method: "post" as const, path, init: { params: {} } }, cell: null });

/** A program whose answers are given by hand, and a disk that another page finds again. */
function desk(disk = new Map<string, unknown>()) {
  const sent: { entry: Entry; answer: (outcome: Outcome) => void }[] = [];
  const ended: [string, string][] = [];
  let keys = 0;
  const outbox = new Outbox({
    store: {
      below: (prefix) => [...disk].filter(([key]) => key.startsWith(prefix)),
      keep: (key, value) => void (value === undefined ? disk.delete(key) : disk.set(key, structuredClone(value))),
    },
    send: (entry) => new Promise((answer) => sent.push({ entry: structuredClone(entry), answer })),
    rest: () => Promise.resolve(),
    newKey: () => `key ${disk.size} ${++keys}`,
    ended: ({ label }: Entry, settled: Settled) => ended.push([label, settled.kind]),
  });
  const answer = async (outcome: Outcome) => {
    sent.shift()?.answer(outcome);
    for (let i = 0; i < 3; i++) await new Promise((done) => setTimeout(done));
  };
  const typed = () => sent.map(({ entry }) => (entry.order.init.body as { typed: string }).typed);
  return { outbox, disk, sent, ended, answer, typed };
}

const AWAY: Outcome = { kind: "unreachable", sentence: "no answer" };
const DONE: Outcome = { kind: "done", answer: 1 };
const behind = (theirs: string): Outcome => ({
  kind: "behind",
  conflict: { sentence: "changed", places: [{ where: "row 1, Due", theirs, mine: "5", row: 1, column: "Due" }], further: 0, version: 9 },
});

test("one after the other, each under its own key, and kept until the program has it", async () => {
  const { outbox, disk, sent, answer } = desk();
  const [first] = [outbox.add(cell(1, "5", "1")), outbox.add(other("/rows"))];
  assert.deepEqual([sent.length, disk.size], [1, 2]);
  const key = sent[0]?.entry.key;
  let kept = false;
  void outbox.kept(1).then(() => (kept = true));
  await answer(AWAY);
  assert.equal(sent[0]?.entry.key, key, "asked for again it is the same deed");
  assert.equal(outbox.shown(1).away, "no answer");
  await answer(DONE);
  assert.deepEqual(await first, { kind: "done", answer: 1 });
  assert.notEqual(sent[0]?.entry.key, key);
  assert.deepEqual([outbox.shown(1).waiting.length, disk.size, kept], [1, 1, false]);
  await answer(DONE);
  assert.deepEqual([outbox.shown(1).waiting, disk.size, outbox.shown(1).away, kept], [[], 0, "", true]);
});

test("what another page left is gone on with, under the same keys, and nobody's end is untold", async () => {
  const before = desk();
  void before.outbox.add(cell(1, "5", "1"));
  void before.outbox.add(cell(2, "6", "2"));
  const { outbox, sent, answer, ended, disk } = desk(before.disk);
  outbox.restore();
  outbox.restore();
  assert.equal(sent[0]?.entry.key, before.sent[0]?.entry.key);
  await answer(DONE);
  await answer({ kind: "refused", error: "no" });
  assert.deepEqual([ended, disk.size, sent.length], [[["it", "done"], ["it", "refused"]], 0, 0]);
});

test("a cell that is written again before it was sent is one deed over what stood there; one that was sent is another", async () => {
  const { outbox, sent, answer, typed } = desk();
  void outbox.add(cell(1, "5", "1"));
  void outbox.add(cell(2, "6", "2"));
  void outbox.add(cell(2, "66", "6"));
  void outbox.add(cell(1, "55", "5"));
  assert.deepEqual(outbox.shown(1).cells.map(({ row, typed: now, was }) => [row, now, was]), [[1, "5", "1"], [2, "66", "2"], [1, "55", "5"]]);
  await answer(DONE);
  assert.deepEqual([typed(), (sent[0]?.entry.order.init.body as { was: string }).was], [["66"], "2"]);
  await answer(DONE);
  assert.deepEqual(typed(), ["55"]);
});

test("nothing is written into a cell across something else that came between", () => {
  const { outbox } = desk();
  for (const made of [other("/a"), cell(1, "5", "1"), other("/columns"), cell(1, "6", "5")]) void outbox.add(made);
  assert.equal(outbox.shown(1).waiting.length, 4);
});

test("what another window wrote is asked about; the rest goes on, and either choice ends it", async () => {
  const { outbox, answer, sent, typed } = desk();
  const first = outbox.add(cell(1, "5", "1"));
  void outbox.add(cell(2, "6", "2"));
  await answer(behind("9"));
  const [asked] = outbox.shown(1).asked;
  assert.deepEqual(typed(), ["6"], "only the one that is asked about waits");
  await answer(DONE);
  outbox.choose(1, asked?.key ?? "", true);
  const again = sent[0]?.entry;
  assert.deepEqual([again?.seen, again?.cell?.was, (again?.order.init.body as { was: string }).was, typed()], [9, "9", "9", ["5"]]);
  await answer(behind("10"));
  outbox.choose(1, outbox.shown(1).asked[0]?.key ?? "", false);
  assert.deepEqual([await first, outbox.shown(1).cells, sent.length], [{ kind: "given up" }, [], 0]);
});

test("what is only here is taken back here, and not what may have reached the program", async () => {
  const { outbox, answer } = desk();
  void outbox.add(cell(1, "5", "1"));
  assert.equal(outbox.takeBack(1), false);
  const second = outbox.add(cell(2, "6", "2"));
  assert.equal(outbox.takeBack(1), true);
  assert.deepEqual(await second, { kind: "given up" });
  await answer(AWAY);
  assert.equal(outbox.takeBack(1), false);
  void outbox.add(other("/undo"));
  assert.equal(outbox.takeBack(1), false, "two steps back are two");
});

test("what the program does not take can be given up, and the rest goes on", async () => {
  const { outbox, answer, sent, disk } = desk();
  void outbox.add(other("/poison"));
  void outbox.add(cell(2, "6", "2"));
  await answer(AWAY);
  outbox.giveUp(1, outbox.shown(1).waiting[0]?.key ?? "");
  await answer(AWAY);
  assert.deepEqual([sent[0]?.entry.order.path, disk.size], ["/rows/2", 1]);
});

test("what was done is shown until the round that has it is on the screen", async () => {
  const { outbox, answer } = desk();
  const pace = { method: "patch" as const, path: "/api/rounds/{round_id}", init: { params: {}, body: { pace: 9 } } };
  void outbox.add({ ...ENTRY, order: pace, cell: null });
  await answer({ kind: "done", answer: { version: 4 } });
  assert.deepEqual([settingIn(outbox.shown(1), "pace"), outbox.shown(1).waiting], [9, []]);
  outbox.seen(1, 3);
  assert.equal(settingIn(outbox.shown(1), "pace"), 9);
  outbox.seen(1, 4);
  assert.equal(settingIn(outbox.shown(1), "pace"), undefined);
});

test("rounds do not wait for one another", () => {
  const { outbox, sent } = desk();
  void outbox.add(cell(1, "5", "1"));
  void outbox.add({ ...cell(1, "5", "1"), round: 2 });
  assert.deepEqual(sent.map(({ entry }) => entry.round), [1, 2]);
});
