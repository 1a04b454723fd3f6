import assert from "node:assert/strict";
import { test } from "vitest";
import { clock, clockSeconds, counted, dayOf, figure, moment, sentenceCase } from "./format.ts";

test("counts", () => {
  assert.equal(figure(12000), "12,000");
  assert.equal(counted(1, "text"), "1 text");
  assert.equal(counted(0, "text"), "0 texts");
  assert.equal(counted(2, "row is", "rows are"), "2 rows are");
});

test("a part of a sentence made to stand alone", () => {
  assert.equal(sentenceCase("the carrier was busy"), "The carrier was busy");
  assert.equal(sentenceCase(""), "");
});

test("moments are written in the clerk's own time", () => {
  const noon = new Date(2026, 10, 24, 14, 5, 9);
  assert.equal(clock(noon.toISOString()), "14:05");
  assert.equal(clockSeconds(noon.toISOString()), "14:05:09");
  assert.equal(moment(noon.toISOString(), new Date(2026, 10, 24, 8)), "14:05");
  assert.match(moment(noon.toISOString(), new Date(2026, 10, 23, 8)), /^Tue,? Nov 24, 14:05$/);
});

test("a day is the same day wherever it is read", () => {
  assert.equal(dayOf("2026-11-30"), "Nov 30, 2026");
});
