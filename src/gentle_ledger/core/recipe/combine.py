"""What becomes of a column when rows are combined."""

from enum import StrEnum


class Aggregate(StrEnum):
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
        return self not in {Aggregate.COUNT, Aggregate.LISTED}


_DOCS = {
    Aggregate.FIRST: "the cell of the first of the rows that has one",
    Aggregate.LAST: "the cell of the last of the rows that has one",
    Aggregate.SUM: "all added",
    Aggregate.SMALLEST: "the smallest number or the earliest date",
    Aggregate.LARGEST: "the largest number or the latest date",
    Aggregate.COUNT: "how many of the rows have one",
    Aggregate.LISTED: "each different one: C14, C15 and D02",
}
