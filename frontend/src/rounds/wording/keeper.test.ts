import assert from "node:assert/strict";
import { test } from "vitest";
import { Keeper, type Left, type Outcome } from "./keeper.ts";

/** A program whose answers are given by hand, one at a time. */
function slowProgram() {
  const waiting: { wording: string; was: string; answer: (outcome: Outcome<string>) => void }[] = [];
  const said: string[] = [];
  let left: Left | null = null;
  const keeper = new Keeper<string>(
    "",
    (wording, was) => new Promise((answer) => waiting.push({ wording, was, answer })),
    {
      kept: (answer) => said.push(`kept ${answer}`),
      refused: (sentence) => said.push(`refused ${sentence}`),
      behind: (theirs) => said.push(`behind ${theirs}`),
      unreachable: () => said.push("unreachable"),
      remember: (now) => {
        left = now;
      },
    },
    () => Promise.resolve(),
  );
  const answer = async (outcome: Outcome<string>) => {
    waiting.shift()?.answer(outcome);
    for (let i = 0; i < 5; i++) await Promise.resolve();
  };
  return { keeper, waiting, said, answer, left: () => left };
}

test("one request at a time, and the newest words next", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  for (const wording of ["H", "He", "Hel"]) void keeper.type(wording);
  assert.deepEqual(waiting.map((w) => w.wording), ["H"]);
  await answer({ kind: "kept", answer: "H" });
  assert.deepEqual(waiting.map((w) => w.wording), ["Hel"]);
  await answer({ kind: "kept", answer: "Hel" });
  assert.deepEqual([waiting.length, said], [0, ["kept H", "kept Hel"]]);
});

test("words are kept through a time without the program", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  void keeper.type("Hello");
  await answer({ kind: "unreachable" });
  assert.deepEqual(waiting.map((w) => w.wording), ["Hello"]);
  void keeper.type("Hello you");
  await answer({ kind: "unreachable" });
  assert.deepEqual(waiting.map((w) => w.wording), ["Hello you"]);
  await answer({ kind: "kept", answer: "ok" });
  assert.deepEqual(said, ["unreachable", "unreachable", "kept ok"]);
});

test("what another page needs to go on is remembered at each key, with what may have come to the program", async () => {
  const { keeper, waiting, answer, left } = slowProgram();
  for (const wording of ["H", "He"]) void keeper.type(wording);
  assert.deepEqual(left(), { text: "He", was: "", sent: ["H"] });
  await answer({ kind: "unreachable" });
  assert.deepEqual(left(), { text: "He", was: "", sent: ["H", "He"] });
  const after = slowProgram();
  after.keeper.goOn({ text: "He", was: "", sent: ["H"] });
  assert.deepEqual([after.waiting[0]?.wording, after.waiting[0]?.was], ["He", ""]);
  // What the page before had sent is its own, and no other window's.
  await after.answer({ kind: "behind", theirs: "H" });
  assert.deepEqual([after.waiting[0]?.wording, after.waiting[0]?.was, after.said], ["He", "H", []]);
  await after.answer({ kind: "kept", answer: "ok" });
  assert.equal(after.left(), null);
  assert.equal(waiting.length, 1);
});

test("a refusal is said once and ends the matter", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  void keeper.type("x");
  await answer({ kind: "refused", sentence: "locked" });
  assert.deepEqual([waiting.length, said], [0, ["refused locked"]]);
  void keeper.type("y");
  assert.deepEqual(waiting.map((w) => w.wording), ["y"]);
});

test("a window that is behind sends nothing until the clerk has chosen, and loses nothing", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  void keeper.type("Hello mine");
  await answer({ kind: "behind", theirs: "Hello theirs" });
  void keeper.type("Hello mine too");
  assert.deepEqual([waiting.length, said], [0, ["behind Hello theirs"]]);
  assert.equal(keeper.seen("Hello theirs"), false);
  keeper.keepMine("Hello theirs");
  assert.deepEqual(waiting.map((w) => [w.wording, w.was]), [["Hello mine too", "Hello theirs"]]);
  await answer({ kind: "kept", answer: "ok" });
  assert.deepEqual(said, ["behind Hello theirs", "kept ok"]);
});

test("the other window's words are taken, and typed on over them", async () => {
  const { keeper, waiting, answer } = slowProgram();
  void keeper.type("Hello mine");
  await answer({ kind: "behind", theirs: "Hello theirs" });
  keeper.takeTheirs("Hello theirs");
  assert.equal(waiting.length, 0);
  void keeper.type("Hello theirs!");
  assert.deepEqual(waiting.map((w) => [w.wording, w.was]), [["Hello theirs!", "Hello theirs"]]);
});

test("an answer that was lost on its way back is no other window", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  void keeper.type("He");
  void keeper.type("Hel");
  await answer({ kind: "unreachable" });
  assert.deepEqual(waiting.map((w) => [w.wording, w.was]), [["Hel", ""]]);
  await answer({ kind: "behind", theirs: "He" });
  assert.deepEqual(waiting.map((w) => [w.wording, w.was]), [["Hel", "He"]]);
  await answer({ kind: "kept", answer: "ok" });
  assert.deepEqual(said, ["unreachable", "kept ok"]);
});

test("each request says over which words it was written", async () => {
  const { keeper, waiting, answer } = slowProgram();
  assert.equal(keeper.seen("From the program"), true);
  void keeper.type("A");
  assert.equal(keeper.seen("late"), false);
  await answer({ kind: "kept", answer: "ok" });
  void keeper.type("B");
  assert.deepEqual(waiting.map((w) => [w.wording, w.was]), [["B", "A"]]);
});
