import assert from "node:assert/strict";
import { test } from "node:test";
import type { ColumnOut, Desk, Role } from "../../api/client.ts";
import { leastWidth, shownColumns, template } from "./layout.ts";

const column = (name: string, role: Role): ColumnOut => ({
  name,
  role,
  recognised: role,
  fallback: null,
  to_the_right: role === "money" || role === "number",
  blanks: 0,
});

const columns = [
  column("Due", "money"),
  column("Holder", "name"),
  column("First name", "name"),
  column("Note", "text"),
  column("Mobile", "mobile number"),
  column("Berth", "reference"),
  column("Paid", "money"),
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

test("a shown column knows its cell's place in the row", () => {
  for (const { column: shown, at } of shownColumns(desk("sending"))) assert.equal(columns[at]?.name, shown.name);
});

test("what lines up to the right does not stretch", () => {
  const line = template(shownColumns(desk("preparing")), false);
  assert.match(line, /^114px minmax\(\d+(\.\d+)?px, auto\) minmax\(\d+(\.\d+)?px, 1fr\)/);
  assert.ok(leastWidth(shownColumns(desk("preparing")), false) > leastWidth(shownColumns(desk("sending")), false) - 352);
});
