"""A block of cells as spreadsheets copy it, and where it goes when it is pasted into a sheet."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, words_of
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.sheets.model import Sheet

MOST_CELLS = 200_000
"""Cells that may be pasted at once."""


def cells_of_block(text: str) -> list[list[str]]:
    """Rows of cells, from tab-separated text with quoted cells, as spreadsheets put it on the clipboard.

    A quote that nobody closes is a character like any other; read as an opening one it would swallow what follows.
    Common practice, no source: the end of the last line is no further row.
    """
    lines = text.replace("\r\n", "\n").replace("\r", "\n")
    lines = lines[:-1] if lines.endswith("\n") else lines
    csv.field_size_limit(MAX_CELL_CHARACTERS * 8)
    try:
        found = list(csv.reader(io.StringIO(lines, newline=""), delimiter="\t", strict=True))
    except csv.Error:
        found = [line.split("\t") for line in lines.split("\n")]
    # The reader gives a blank line no cell at all, and it is a blank cell.
    return [row or [""] for row in found] or [[""]]


@dataclass(frozen=True, slots=True)
class Place:
    """Where a block is to go.

    Attributes:
        rows: the rows of the list from the chosen one on, by number, or just those that are chosen.
        columns: the chosen columns, in the order in which they are shown.
        chosen: how many of the rows are chosen.
        below: whether the block becomes new rows below the last one.
        may_add: whether rows may be added where the list is too short; not while some rows are not shown.
    """

    rows: Sequence[RowNumber]
    columns: Sequence[str]
    chosen: int = 1
    below: bool = False
    may_add: bool = True


@dataclass(frozen=True, slots=True)
class Laid:
    """A block laid over a sheet.

    Attributes:
        cells: what each cell becomes, by row (from 1) and column (from 0); blank is "".
        added: rows that the sheet does not have yet.
        named: whether the block's first line has the names of the columns, by which it was laid.
    """

    cells: dict[tuple[RowNumber, int], str]
    added: int
    named: bool


def lay(sheet: Sheet, block: Sequence[Sequence[str]], place: Place) -> Laid:
    """Says which cell of the sheet becomes what.

    A single cell fills all that is chosen. A block that begins with the names of columns goes by these names; any other
    one begins at the first chosen column, or, as new rows, at the first column of all where it would not fit otherwise.

    Raises SheetError for a block that does not fit: nothing is cut off in silence.
    """
    if sum(map(len, block)) > MOST_CELLS:
        raise SheetError(f"That is too much to paste: at most {MOST_CELLS:,} cells at once.", "Bring it in as a sheet.")
    named = _named(sheet, block)
    lines = [list(line) for line in (block[1:] if named else block)]
    positions = [sheet.position(name) for name in place.columns]
    own = [position for position in positions if position is not None]
    if not named and not place.below and len(own) < len(positions):
        computed = next(name for name, at in zip(place.columns, positions, strict=True) if at is None)
        raise SheetError(f"{computed} is worked out, so nothing can be pasted over it.", "Change its formula instead.")
    rows = _rows(sheet, lines, place)
    if lines == [[lines[0][0]]] and not named and not place.below and (place.chosen > 1 or len(own) > 1):
        fill = lines[0][0].strip()
        return Laid({(number, at): fill for number in place.rows[: place.chosen] for at in own}, 0, False)
    columns = named or _columns(sheet, max(map(len, lines)), own[0] if own else 0, place.below)
    cells = {
        (number, at): typed.strip()
        for number, line in zip(rows, lines, strict=True)
        for at, typed in zip(columns, line, strict=False)
    }
    if any(len(typed) > MAX_CELL_CHARACTERS for typed in cells.values()):
        raise SheetError(f"A cell holds at most {MAX_CELL_CHARACTERS:,} characters, and one of these has more.")
    return Laid(cells, sum(number > len(sheet.rows) for number in rows), bool(named))


def _named(sheet: Sheet, block: Sequence[Sequence[str]]) -> list[int]:
    """The columns that a block's first line names; none where it is no line of names."""
    found = [sheet.position(name.strip()) for name in block[0]]
    positions = [position for position in found if position is not None]
    fits = len(positions) == len(found) == len(set(positions)) and all(len(line) <= len(found) for line in block)
    # One word may be a cell that happens to be called like a column.
    return positions if fits and len(block) > 1 and (len(found) > 1 or len(sheet.columns) == 1) else []


def _rows(sheet: Sheet, lines: Sequence[Sequence[str]], place: Place) -> list[RowNumber]:
    last = len(sheet.rows)
    if place.below:
        return [number_of_row(last + i) for i in range(len(lines))]
    rows = list(place.rows[: len(lines)])
    missing = len(lines) - len(rows)
    if missing and not place.may_add:
        raise SheetError(
            f"{count(len(lines), 'row')} are to be pasted and only {len(rows):,} of those shown are left from here on.",
            "Show all rows first, or paste them as new rows.",
        )
    return rows + [number_of_row(last + i) for i in range(missing)]


def _columns(sheet: Sheet, wide: int, first: int, below: bool) -> list[int]:
    start = 0 if below and first + wide > len(sheet.columns) else first
    if start + wide > len(sheet.columns):
        raise SheetError(
            f"The block is {count(wide, 'column')} wide, and from {sheet.columns[start]} on the sheet has "
            f"{len(sheet.columns) - start}.",
            "Choose a cell further left, or copy fewer columns.",
        )
    return list(range(start, start + wide))


def covered(sheet: Sheet, laid: Laid) -> list[tuple[RowNumber, int]]:
    """The cells in which something else stands than what would be pasted over it."""
    found = []
    for (number, at), typed in laid.cells.items():
        if number <= len(sheet.rows):
            stands = words_of(sheet.rows[row_of_number(number)][at])
            if stands not in {"", typed}:
                found.append((number, at))
    return found
