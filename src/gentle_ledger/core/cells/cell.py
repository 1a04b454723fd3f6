"""What stands in a cell as it came: text, a number, a day, true or false, or nothing."""

import unicodedata
from collections.abc import Sequence
from datetime import date, datetime
from decimal import Decimal

from gentle_ledger.core.cells.invisible import compared

Cell = str | Decimal | date | datetime | bool | None
"""What stands in a cell. Text stays text ("007"), numbers are Decimal, a cell with nothing in it is None."""

MAX_CELL_CHARACTERS = 32_767
"""The most characters a spreadsheet cell holds (ECMA-376 part 1, 18.3.1.4, as common practice has it; from memory)."""


def is_blank(cell: Cell) -> bool:
    """The one rule for blank: nothing in the cell, or only white space and invisible marks."""
    if cell is None:
        return True
    if isinstance(cell, str):
        if cell and "!" <= cell[0] <= "~":
            return False
        return all(c.isspace() or unicodedata.category(c) in {"Cf", "Cc"} for c in cell)
    return False


def same_cell(one: Cell, other: Cell) -> bool:
    """True when two cells hold the same to the last digit: 1.50 is not 1.5, and true is not 1."""
    return one == other and type(one) is type(other) and as_written(one) == as_written(other)


def same_cells(one: Sequence[Cell], other: Sequence[Cell]) -> bool:
    """The same of two rows of cells."""
    if one != other:
        return False
    # Two texts that are equal are the same; only of what is not text there is more to ask.
    return all(cell is None or type(cell) is str or same_cell(cell, other[i]) for i, cell in enumerate(one))


def words_of(cell: Cell) -> str:
    """What a cell says, as it was written: without the white space around it, and "" for a blank one."""
    return "" if is_blank(cell) else as_written(cell).strip()


def column_key(name: str) -> str:
    """Under which two column names are the same column: case, white space and invisible marks do not count."""
    return compared(name)


def as_written(cell: Cell) -> str:
    """A cell as plain text, the way it stood in the sheet: no rounding, no locale, dates in ISO 8601."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "TRUE" if cell else "FALSE"
    if isinstance(cell, Decimal):
        return format(cell, "f")
    if isinstance(cell, datetime):
        return cell.isoformat(sep=" ")
    if isinstance(cell, date):
        return cell.isoformat()
    return cell
