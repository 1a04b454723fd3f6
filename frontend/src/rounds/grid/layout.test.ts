import assert from "node:assert/strict";
import { test } from "vitest";
import type { Desk } from "../../api/client.ts";
import { aColumn } from "./aColumn.ts";
import { leastWidth, shownColumns, slackOf, template } from "./layout.ts";

const columns = [
  aColumn("Due", "money"),
  aColumn("Holder", "name"),
  aColumn("First name", "name"),
  aColumn("Note", "text"),
  aColumn("Mobile", "mobile number"),
  aColumn("Berth", "reference"),
  aColumn("Paid", "money"),
];
const desk = (stage: Desk["stage"]) => ({ stage, columns }) as Desk;
const names = (stage: Desk["stage"]) => shownColumns(desk(stage)).map((s) => s.column.name);

test("while a sheet is prepared all its columns are shown, in its order", () => {
  assert.deepEqual(names("preparing"), columns.map((c) => c.name));
});

test("once sending starts: who, where, and how much, still in the sheet's order", () => {
  for (const stage of ["sending", "paused", "stopped", "finished"] as const)
    assert.deepEqual(names(stage), ["Due", "Holder", "Mobile", "Berth"]);
});

test("what the wording uses comes first", () => {
  const used = columns.map((c) => ({ ...c, used: c.name === "Paid" || c.name === "Berth" }));
  const found = shownColumns({ stage: "sending", columns: used } as Desk).map((s) => s.column.name);
  assert.deepEqual(found, ["Holder", "Mobile", "Berth", "Paid"]);
});

test("computed columns stay in sight at the right edge", () => {
  const made = ["Late charge", "To pay"].map((name) => ({ ...aColumn(name, "money"), formula: "1" }));
  const link = { ...aColumn("Pay link", "link"), template: "https://pay.saltmarsh.example/" };
  const found = shownColumns({ stage: "preparing", columns: [...made, link, ...columns] } as Desk);
  assert.deepEqual(found.slice(-2).map((s) => [s.column.name, s.pinned !== null]), [["Late charge", true], ["To pay", true]]);
  assert.equal(found.at(-1)?.pinned, 0);
  assert.ok((found.at(-2)?.pinned ?? 0) >= 70);
  assert.deepEqual(found.filter((s) => s.edge).map((s) => s.column.name), ["Late charge"]);
});

test("in a small window no more stays in sight than leaves room for the others", () => {
  const made = ["Late charge", "To pay"].map((name) => ({ ...aColumn(name, "money"), formula: "1" }));
  const sheet = { stage: "preparing", columns: [...columns, ...made] } as Desk;
  const kept = (room: number) => shownColumns(sheet, {}, room).filter((s) => s.pinned !== null).map((s) => s.column.name);
  assert.deepEqual([kept(900), kept(400), kept(250)], [["Late charge", "To pay"], ["To pay"], []]);
});

test("a dragged width is the column's, and it does not stretch", () => {
  const shown = shownColumns(desk("preparing"), { Holder: 77, Elsewhere: 500 });
  assert.match(template(shown, false), /^114px minmax\([\d.]+px, auto\) 77px minmax/);
});

test("scrolled to the end, the columns begin with a whole one", () => {
  const shown = shownColumns(desk("preparing"));
  const least = leastWidth(shown, false);
  assert.equal(slackOf(shown, false, least), 0);
  const first = Number(/minmax\(([\d.]+)px/.exec(template(shown, false))?.[1]);
  assert.equal(slackOf(shown, false, least - 1), first - 1);
  assert.equal(slackOf(shown, false, least - first), 0);
  assert.match(template(shown, false, 40), / \d+(\.\d+)?px$/);
});

test("a shown column knows its cell's place in the row", () => {
  for (const { column: shown, at } of shownColumns(desk("sending"))) assert.equal(columns[at]?.name, shown.name);
});

test("what lines up to the right does not stretch", () => {
  const line = template(shownColumns(desk("preparing")), false);
  assert.match(line, /^114px minmax\(\d+(\.\d+)?px, auto\) minmax\(\d+(\.\d+)?px, 1fr\)/);
  assert.ok(leastWidth(shownColumns(desk("preparing")), false) > leastWidth(shownColumns(desk("sending")), false) - 352);
});
