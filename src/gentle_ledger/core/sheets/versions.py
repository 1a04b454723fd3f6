"""Comparing a sheet with a newer version of it, row by row, by a column that says which row is which."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, as_written, column_key, is_blank
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.sheets.model import Sheet

_NUMBER = re.compile(r"-?(0|[1-9]\d{0,30})(\.\d{1,30})?")
"""A number, but no code with zeros in front."""


@dataclass(frozen=True, slots=True)
class Change:
    """A cell that differs: `row` counts from 0 in the newer version."""

    row: int
    column: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Comparison:
    """What a newer version brings; rows count from 0, `new` and `changes` in the newer one, `gone` in the older one.

    `earlier` has, for each row of the newer version, the row it was before, or None.
    """

    key: str
    new: tuple[int, ...]
    gone: tuple[int, ...]
    changes: tuple[Change, ...]
    earlier: tuple[int | None, ...]
    columns_new: tuple[str, ...]
    columns_gone: tuple[str, ...]

    @property
    def changed_rows(self) -> int:
        """How many rows have a changed cell."""
        return len({change.row for change in self.changes})


def same_cell(left: Cell, right: Cell) -> bool:
    """Two cells are the same when they read the same: a number and its text do, 9.20 and 9.2 do."""
    if left == right:
        return True
    one, other = as_written(left).strip(), as_written(right).strip()
    if one == other:
        return True
    both = _NUMBER.fullmatch(one) and _NUMBER.fullmatch(other)
    return bool(both) and Decimal(one) == Decimal(other)


def key_columns(sheet: Sheet) -> tuple[str, ...]:
    """The columns whose cells are filled and different in every row: each of them says which row is which."""
    return tuple(name for i, name in enumerate(sheet.columns) if _repeated(sheet, i) is None)


def _keys(sheet: Sheet, position: int) -> list[str]:
    return [column_key(as_written(row[position])) for row in sheet.rows]


def _repeated(sheet: Sheet, position: int) -> tuple[int, int | None] | None:
    """The first row (from 0) whose key is blank, or stands in an earlier row as well, with that one."""
    seen: dict[str, int] = {}
    for row, key in enumerate(_keys(sheet, position)):
        if not key:
            return row, None
        if key in seen:
            return row, seen[key]
        seen[key] = row
    return None


def compare(older: Sheet, newer: Sheet, key: str) -> Comparison:
    """Compares two versions by the column `key`. Raises SheetError when it cannot tell the rows of either apart."""
    for sheet, which in ((older, "in the round"), (newer, "in the newer version")):
        _refuse_key(sheet, which, key)
    before, after = older.position(key) or 0, newer.position(key) or 0
    rows_before = {k: row for row, k in enumerate(_keys(older, before))}
    earlier = tuple(rows_before.get(k) for k in _keys(newer, after))
    kept = {row for row in earlier if row is not None}
    pairs = [(older.position(name), i, name) for i, name in enumerate(newer.columns)]
    shared = [(old, new, name) for old, new, name in pairs if old is not None]
    return Comparison(
        newer.columns[after],
        tuple(row for row, was in enumerate(earlier) if was is None),
        tuple(row for row in range(len(older.rows)) if row not in kept),
        tuple(_changes(older, newer, earlier, shared)),
        earlier,
        tuple(name for old, _, name in pairs if old is None),
        tuple(name for name in older.columns if newer.position(name) is None),
    )


def _changes(
    older: Sheet, newer: Sheet, earlier: Sequence[int | None], shared: Sequence[tuple[int, int, str]]
) -> list[Change]:
    found = []
    for row, was in enumerate(earlier):
        if was is None:
            continue
        left, right = older.rows[was], newer.rows[row]
        for old, new, name in shared:
            if not same_cell(left[old], right[new]) and not (is_blank(left[old]) and is_blank(right[new])):
                found.append(Change(row, name, as_written(left[old]).strip(), as_written(right[new]).strip()))
    return found


def _refuse_key(sheet: Sheet, which: str, key: str) -> None:
    position = sheet.position(key)
    if position is None:
        raise SheetError(
            f'The sheet {which} has no column "{clipped(key)}".', f"It has {listed(sheet.columns, 6)}.", column=key
        )
    repeated = _repeated(sheet, position)
    if repeated is not None:
        row, other = repeated
        shown = clipped(as_written(sheet.rows[row][position]))
        why = (
            f"is blank in row {number_of_row(row)}"
            if other is None
            else f'has "{shown}" in rows {number_of_row(other or 0)} and {number_of_row(row)}'
        )
        raise SheetError(
            f"{sheet.columns[position]} {why} of the sheet {which}, so it cannot say which row is which.",
            "Choose another column, or mend it.",
            row=number_of_row(row),
            column=sheet.columns[position],
        )
