import assert from "node:assert/strict";
import { test } from "node:test";
import { Keeper, type Outcome } from "./keeper.ts";

/** A program whose answers are given by hand, one at a time. */
function slowProgram() {
  const waiting: { wording: string; answer: (outcome: Outcome<string>) => void }[] = [];
  const said: string[] = [];
  const keeper = new Keeper<string>(
    (wording) => new Promise((answer) => waiting.push({ wording, answer })),
    {
      kept: (answer) => said.push(`kept ${answer}`),
      refused: (sentence) => said.push(`refused ${sentence}`),
      unreachable: () => said.push("unreachable"),
    },
    () => Promise.resolve(),
  );
  const answer = async (outcome: Outcome<string>) => {
    waiting.shift()?.answer(outcome);
    for (let i = 0; i < 5; i++) await Promise.resolve();
  };
  return { keeper, waiting, said, answer };
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

test("a refusal is said once and ends the matter", async () => {
  const { keeper, waiting, said, answer } = slowProgram();
  void keeper.type("x");
  await answer({ kind: "refused", sentence: "locked" });
  assert.deepEqual([waiting.length, said], [0, ["refused locked"]]);
  void keeper.type("y");
  assert.deepEqual(waiting.map((w) => w.wording), ["y"]);
});
