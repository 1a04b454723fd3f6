"""A sheet: named columns over rows of typed cells."""

from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import Cell, column_key

MAX_ROWS = 200_000
MAX_BYTES = 50 * 1024 * 1024
MAX_COLUMNS = 500


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
        """The cells of a column, one a row."""
        return [row[position] for row in self.rows]
