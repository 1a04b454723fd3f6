import { expect, test } from "vitest";
import type { CellOut } from "../../api/client.ts";
import { asBlock, toldOf, writtenIn } from "./cells.ts";

const cell = (shown: string, more: Partial<CellOut> = {}): CellOut => ({ shown, typed: null, trouble: null, explained: null, original: null, ...more });

test("the line under the sheet tells what is there now and what was in the file", () => {
  expect(toldOf(cell("E07"))).toBe("E07");
  expect(toldOf(cell("E07", { original: "C15" }))).toBe("E07 · in the file: C15");
  expect(toldOf(cell("E07", { original: "" }))).toBe("E07 · in the file: blank");
  expect(toldOf(cell("$186.40", { typed: "186.4" }))).toBe("186.4, in a text: $186.40");
  expect(toldOf(cell("oops", { trouble: "not an amount" }))).toBe("oops: not an amount");
  expect(toldOf(cell("oops", { trouble: "'oops' is not an amount" }))).toBe("'oops' is not an amount");
});

test("what is copied is what stands in the sheet, and stays a table", () => {
  expect([writtenIn(cell("$186.40", { typed: "186.4" })), writtenIn(cell("C14"))]).toEqual(["186.4", "C14"]);
  expect(asBlock([["a", "b"], ['say "so"', "two\nlines"]])).toBe('a\tb\n"say ""so"""\t"two\nlines"');
});
