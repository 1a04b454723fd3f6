"""A sheet: named columns over rows of typed cells."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from gentle_ledger.core.invisible import compared

Cell = str | Decimal | date | datetime | bool | None
"""What stands in a cell. Text stays text ("007"), numbers are Decimal, a cell with nothing in it is None."""

MAX_ROWS = 200_000
MAX_BYTES = 50 * 1024 * 1024
MAX_COLUMNS = 500
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


@dataclass(frozen=True, slots=True)
class Sheet:
    """The rows of one worksheet under its column names.

    `rows[i]` is data row `i + 1` and has exactly `len(columns)` cells; `hidden` are those that the workbook does not
    show.
    """

    columns: tuple[str, ...]
    rows: Sequence[tuple[Cell, ...]]
    hidden: frozenset[int] = frozenset()

    def position(self, name: str) -> int | None:
        """Where the column of that name stands, or None; see `column_key` for what counts as the same name."""
        wanted = column_key(name)
        for i, column in enumerate(self.columns):
            if column_key(column) == wanted:
                return i
        return None

    def values(self, position: int) -> list[Cell]:
        return [row[position] for row in self.rows]
