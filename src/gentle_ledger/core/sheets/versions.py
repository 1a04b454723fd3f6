"""Comparing a sheet with a newer version of it, row by row, by a column that says which row is which."""

import re
from collections.abc import Callable, Collection, Mapping, Sequence
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
class Mended:
    """A cell that was mended in the round, and is another one in the newer version.

    Attributes:
        row, position: where it stands in the newer version, from 0.
        column: its column.
        original: what stood in the file that was brought in before.
        here: what it was mended to.
        newer: what the newer version has.
    """

    row: int
    position: int
    column: str
    original: Cell
    here: Cell
    newer: Cell

    @property
    def doubtful(self) -> bool:
        """Whether it is another one on both sides: only the clerk knows which counts."""
        return not _reads_the_same(self.original, self.newer)


Originals = Mapping[int, Sequence[Cell] | None]
"""By row (from 0), the cells as they were brought in, of those that were mended; None for a row that was added."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """What a newer version brings; rows count from 0, `new` and `changes` in the newer one, `gone` in the older one.

    `mended` are the cells of the round whose mending is in question, and are no `changes`; `added` are its rows that
    were in no file and are not in the newer one either, without those that are blank. `earlier` has, for each row of
    the newer version, the row it was before, or None.
    """

    key: str
    new: tuple[int, ...]
    gone: tuple[int, ...]
    changes: tuple[Change, ...]
    mended: tuple[Mended, ...]
    added: tuple[int, ...]
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


def _reads_the_same(left: Cell, right: Cell) -> bool:
    return same_cell(left, right) or (is_blank(left) and is_blank(right))


def key_columns(sheet: Sheet, added: Collection[int] = ()) -> tuple[str, ...]:
    """The columns whose cells are filled and different in every row: each of them says which row is which.

    Rows with nothing in them say nothing of a column, nor do rows that were `added` in the round and are blank in it.
    """
    return tuple(name for i, name in enumerate(sheet.columns) if _repeated(sheet, i, added) is None)


def nearest_key(sheet: Sheet, names: Collection[str], added: Collection[int] = ()) -> str | None:
    """Of the columns in which rows are told apart but for a few, the one with the fewest; None where there is none."""
    few: dict[str, int] = {}
    for i, name in enumerate(sheet.columns):
        if name in names:
            keys = [key for row, key in enumerate(_keys(sheet, i)) if not _says_nothing(sheet, row, i, added)]
            few[name] = len(keys) - len({*keys} - {""})
    best = min(few, key=few.__getitem__, default=None)
    return best if best is not None and few[best] < _FEW * len(sheet.rows) else None


_FEW = 0.5


def _keys(sheet: Sheet, position: int) -> list[str]:
    return [column_key(as_written(row[position])) for row in sheet.rows]


def _says_nothing(sheet: Sheet, row: int, position: int, added: Collection[int]) -> bool:
    cells = sheet.rows[row]
    return is_blank(cells[position]) and (row in added or all(is_blank(cell) for cell in cells))


def _repeated(sheet: Sheet, position: int, added: Collection[int]) -> tuple[int, int | None] | None:
    """The first row (from 0) whose key is blank, or stands in an earlier row as well, with that one."""
    seen: dict[str, int] = {}
    for row, key in enumerate(_keys(sheet, position)):
        if not key:
            if _says_nothing(sheet, row, position, added):
                continue
            return row, None
        if key in seen:
            return row, seen[key]
        seen[key] = row
    return None


def compare(older: Sheet, newer: Sheet, key: str, originals: Originals | None = None) -> Comparison:
    """Compares two versions by the column `key`. Raises SheetError when it cannot tell the rows of either apart."""
    originals = originals or {}
    added = frozenset(row for row, cells in originals.items() if cells is None)
    _refuse_key(older, "in the round", key, added)
    _refuse_key(newer, "in the newer version", key, ())
    before, after = older.position(key) or 0, newer.position(key) or 0
    earlier = _earlier(older, before, _keys(newer, after), originals)
    kept = {row for row in earlier if row is not None}
    pairs = [(older.position(name), i, name) for i, name in enumerate(newer.columns)]
    shared = [(old, new, name) for old, new, name in pairs if old is not None]
    changes, mended = _changes(older, newer, earlier, shared, originals)
    left = [row for row, cells in enumerate(older.rows) if row not in kept and not all(map(is_blank, cells))]
    return Comparison(
        newer.columns[after],
        tuple(row for row, was in enumerate(earlier) if was is None),
        tuple(row for row in left if row not in added),
        tuple(changes),
        tuple(mended),
        tuple(row for row in left if row in added),
        earlier,
        tuple(name for old, _, name in pairs if old is None),
        tuple(name for name in older.columns if newer.position(name) is None),
    )


def _earlier(older: Sheet, position: int, keys: Sequence[str], originals: Originals) -> tuple[int | None, ...]:
    """The row that each row of the newer version was before: by its key, or by what that was before it was mended."""
    now = {key: row for row, key in enumerate(_keys(older, position)) if key}
    taken = {now[key] for key in keys if key in now}
    was: dict[str, int] = {}
    for row, cells in originals.items():
        if cells is not None and row not in taken and (key := column_key(as_written(cells[position]))):
            was.setdefault(key, row)
    return tuple(now.get(key, was.get(key)) for key in keys)


def _changes(
    older: Sheet,
    newer: Sheet,
    earlier: Sequence[int | None],
    shared: Sequence[tuple[int, int, str]],
    originals: Originals,
) -> tuple[list[Change], list[Mended]]:
    changes, mended = list[Change](), list[Mended]()
    for row, was in enumerate(earlier):
        if was is None:
            continue
        left, right = older.rows[was], newer.rows[row]
        brought = (originals[was] or (None,) * len(left)) if was in originals else left
        for old, new, name in shared:
            if _reads_the_same(left[old], right[new]):
                continue
            if _reads_the_same(left[old], brought[old]):
                changes.append(Change(row, name, as_written(left[old]).strip(), as_written(right[new]).strip()))
            else:
                mended.append(Mended(row, new, name, brought[old], left[old], right[new]))
    return changes, mended


@dataclass(frozen=True, slots=True)
class Merged:
    """A newer version with what of the round was kept in it.

    Attributes:
        sheet: its rows, those that were added in the round at the end.
        originals: by row, its cells as the newer version has them, of those in which something was kept; None for rows
            that were added.
        earlier: for each row, the one it was before, or None.
    """

    sheet: Sheet
    originals: Originals
    earlier: tuple[int | None, ...]


def merged(older: Sheet, newer: Sheet, compared: Comparison, keeps: Callable[[Mended], bool], *, added: bool) -> Merged:
    """The newer version with the mended cells that are kept, and with the rows that were added, where they are."""
    rows = list(newer.rows)
    originals: dict[int, Sequence[Cell] | None] = {}
    for cell in compared.mended:
        if keeps(cell):
            originals.setdefault(cell.row, newer.rows[cell.row])
            content = list(rows[cell.row])
            content[cell.position] = cell.here
            rows[cell.row] = tuple(content)
    more = compared.added if added else ()
    places = [older.position(name) for name in newer.columns]
    for row in more:
        originals[len(rows)] = None
        rows.append(tuple(None if place is None else older.rows[row][place] for place in places))
    return Merged(Sheet(newer.columns, rows, newer.hidden), originals, (*compared.earlier, *more))


def _refuse_key(sheet: Sheet, which: str, key: str, added: Collection[int]) -> None:
    position = sheet.position(key)
    if position is None:
        raise SheetError(
            f'The sheet {which} has no column "{clipped(key)}".', f"It has {listed(sheet.columns, 6)}.", column=key
        )
    repeated = _repeated(sheet, position, added)
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
