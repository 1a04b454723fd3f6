import { expect, test } from "vitest";
import { chosenIn, MARK, moved, onward, typedAhead, waits, type Hand, type Key } from "./hand.ts";

const size = { rows: 10, columns: 4, page: 3 };
const hand = (place: number, column: number, from = [place, column]): Hand => ({
  at: { place, column },
  from: { place: from[0] ?? 0, column: from[1] ?? 0 },
});

const MOVES: [string, Hand, Hand | null][] = [
  ["ArrowDown", hand(0, 0), hand(1, 0)],
  ["ArrowDown", hand(9, 0), hand(9, 0)],
  ["ArrowLeft", hand(2, 0), hand(2, MARK)],
  ["ArrowLeft", hand(2, MARK), hand(2, MARK)],
  ["ArrowRight", hand(2, 3), hand(2, 3)],
  ["Shift ArrowRight", hand(2, 1), hand(2, 2, [2, 1])],
  ["Shift ArrowDown", hand(3, 2, [2, 1]), hand(4, 2, [2, 1])],
  ["Shift ArrowLeft", hand(2, 0), hand(2, 0)],
  ["Shift ArrowDown", hand(2, MARK), hand(3, MARK, [2, MARK])],
  ["Ctrl Shift ArrowDown", hand(3, MARK, [2, MARK]), hand(9, MARK, [2, MARK])],
  ["Shift ArrowRight", hand(3, MARK, [2, MARK]), hand(3, 0, [2, 0])],
  ["Ctrl a", hand(2, MARK), hand(9, MARK, [0, MARK])],
  ["ArrowDown", hand(3, 2, [2, 1]), hand(4, 2)],
  ["Ctrl ArrowDown", hand(2, 1), hand(9, 1)],
  ["Ctrl ArrowLeft", hand(2, 3), hand(2, 0)],
  ["Ctrl Shift ArrowUp", hand(2, 1), hand(0, 1, [2, 1])],
  ["Home", hand(2, 3), hand(2, 0)],
  ["End", hand(2, 0), hand(2, 3)],
  ["Ctrl Home", hand(2, 3), hand(0, 0)],
  ["Ctrl End", hand(2, 0), hand(9, 3)],
  ["PageDown", hand(2, 1), hand(5, 1)],
  ["PageUp", hand(2, 1), hand(0, 1)],
  ["Tab", hand(2, 3), hand(3, 0)],
  ["Tab", hand(9, 3), null],
  ["Shift Tab", hand(2, 0), hand(1, 3)],
  ["Shift Tab", hand(0, 0), null],
  ["Ctrl a", hand(2, 1), hand(9, 3, [0, 0])],
  ["Shift Space", hand(2, 1), hand(2, 3, [2, 0])],
  ["Ctrl Space", hand(2, 1), hand(9, 1, [0, 1])],
  ["Space", hand(2, 1), null],
  ["a", hand(2, 1), null],
  ["Enter", hand(2, 1), null],
];

test.each(MOVES)("%s from %j", (keys, from, to) => {
  const parts = keys.split(" ");
  const key = parts.at(-1) === "Space" ? " " : (parts.at(-1) ?? "");
  expect(moved(from, { key, ctrlKey: parts.includes("Ctrl"), shiftKey: parts.includes("Shift") }, size)).toEqual(to);
});

test("what is chosen has its ends in order, whichever way it was chosen", () => {
  expect(chosenIn(hand(2, 3, [4, 1]))).toEqual({ top: 2, bottom: 4, left: 1, right: 3 });
});

test("after a cell is written the hand goes on, and stays at the very end", () => {
  expect(onward(hand(0, 3), size, 1)).toEqual(hand(1, 0));
  expect(onward(hand(9, 3), size, 1)).toBeNull();
});

const pressed = (keys: string): Key[] =>
  keys.split(" ").map((key) => {
    const parts = key.split("+");
    return { key: parts.at(-1) ?? "", ctrlKey: parts.includes("Ctrl"), shiftKey: parts.includes("Shift") };
  });

/** The keys, what they write, how they leave the cell, and how many are meant for the next one. */
const AHEAD: [string, string | null, string | null, number][] = [
  ["9 0 Enter", "90", "down", 0],
  ["9 0", "90", null, 0],
  ["9 0 Backspace 1 Tab 2 Enter", "91", "right", 2],
  ["9 Shift+Enter", "9", "up", 0],
  ["9 ArrowUp 8", "9", "up", 1],
  ["9 Escape 8 Enter", null, "stay", 2],
  ["ArrowDown 8", null, "down", 1],
  ["Enter 8 Enter", "8", "down", 0],
  ["Enter Enter", null, "down", 0],
  ["Enter ArrowLeft 8 Enter", null, null, 0],
  ["Delete Enter", "", "stay", 1],
  ["9 Ctrl+v Enter", "9", "down", 0],
];

test.each(AHEAD)("typed ahead of its row: %s", (keys, text, end, rest) => {
  const told = typedAhead(pressed(keys));
  expect([told.text, told.end, told.rest.length]).toEqual([text, end, rest]);
});

test("a key that only moves does not wait, unless it is behind one that writes", () => {
  const down: Key = { key: "ArrowDown", ctrlKey: false, shiftKey: false };
  expect([waits([], down), waits(pressed("9"), down), waits([], { ...down, key: "v", ctrlKey: true })]).toEqual([false, true, false]);
});
