"""What becomes of a column when rows are combined."""

from enum import StrEnum


class How(StrEnum):
    """What a combined row has in a column."""

    FIRST = "first"
    LAST = "last"
    SUM = "sum"
    SMALLEST = "smallest"
    LARGEST = "largest"
    COUNT = "count"
    LISTED = "listed"

    @property
    def doc(self) -> str:
        """What it makes of the rows, as the clerk reads it."""
        return _DOCS[self]

    @property
    def keeps_format(self) -> bool:
        """False where the outcome is no longer a value of the column's own kind."""
        return self not in {How.COUNT, How.LISTED}


_DOCS = {
    How.FIRST: "the cell of the first of the rows that has one",
    How.LAST: "the cell of the last of the rows that has one",
    How.SUM: "all added",
    How.SMALLEST: "the smallest number or the earliest date",
    How.LARGEST: "the largest number or the latest date",
    How.COUNT: "how many of the rows have one",
    How.LISTED: "each different one: C14, C15 and D02",
}
