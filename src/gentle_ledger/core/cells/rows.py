"""The two ways of counting rows: from 0 where they stand in a sequence, from 1 where people and the store name them."""

from typing import NewType

RowNumber = NewType("RowNumber", int)
"""A row as it is named: 1 is the first. A plain whole number counts rows from 0."""


def number_of_row(row: int) -> RowNumber:
    """The number of a row that is counted from 0."""
    return RowNumber(row + 1)


def row_of_number(number: RowNumber) -> int:
    """Where the row of that number stands, from 0."""
    return number - 1
