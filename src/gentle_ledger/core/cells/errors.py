"""The one base of every error a clerk may read."""

from typing import Any, ClassVar

from gentle_ledger.core.cells.rows import RowNumber


class LedgerError(Exception):
    """Something went wrong that a clerk can do something about.

    Args:
        what: a full sentence that says what happened.
        remedy: a full sentence that says what to do, or "".
        row: 1 for the first data row of the sheet, 0 for that of the column names, if the trouble is in one row.
        column: the column's name, if the trouble is in one column.

    `more` is for programs: what they need to go on, by name.
    """

    kind: ClassVar[str] = "error"
    status: int = 422

    def __init__(self, what: str, remedy: str = "", *, row: RowNumber | None = None, column: str | None = None) -> None:
        self.what = what
        self.remedy = remedy
        self.row = row
        self.column = column
        self.more: dict[str, Any] = {}
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        """What happened and what to do, as the clerk reads it."""
        return f"{self.what} {self.remedy}".strip()


class SheetError(LedgerError):
    """The bytes that were brought in are not a sheet we can read in full."""

    kind = "sheet"


class RecipeError(LedgerError):
    """A recipe does not fit the model, or does not fit the sheet."""

    kind = "recipe"
