"""What stands in a cell as it came: text, a number, a day, true or false, or nothing."""

import unicodedata
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
