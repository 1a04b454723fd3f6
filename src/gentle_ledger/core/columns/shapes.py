"""What the cells of a column look like: words, codes, figures, days or phone numbers; and which look otherwise."""

from collections import Counter
from collections.abc import Sequence
from enum import StrEnum

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.days import shaped_like_a_day
from gentle_ledger.core.cells.figures import written
from gentle_ledger.core.sheets.header import PHONE_LIKE

_LOOK_AT = 200
_NEARLY_ALL = 0.9
_FEWEST = 4
"""Filled cells from which on a column has a shape; a figure of ours."""


class Shape(StrEnum):
    """What a filled cell looks like."""

    WORDS = "words"
    CODE = "a code"
    FIGURE = "a figure"
    DAY = "a day"
    PHONE = "a phone number"


def shape_of(cell: Cell) -> Shape | None:
    """What a cell looks like; None for a blank one."""
    if is_blank(cell):
        return None
    text = as_written(cell).strip()
    if not any(c.isdigit() for c in text):
        return Shape.WORDS
    if PHONE_LIKE.fullmatch(text):
        return Shape.PHONE
    if shaped_like_a_day(text):
        return Shape.DAY
    return Shape.FIGURE if written(text) is not None else Shape.CODE


class Shapes:
    """The shape of one column.

    Attributes:
        usual: what nearly all of its filled cells look like; None where they differ, or are few.
        filled: whether nearly all of its cells are filled.
    """

    def __init__(self, cells: Sequence[Cell]) -> None:
        first = [shape_of(cell) for cell in cells[:_LOOK_AT]]
        known = Counter(shape for shape in first if shape is not None)
        shape, many = known.most_common(1)[0] if known else (None, 0)
        # One that looks otherwise is the one in question: it does not count against the others.
        enough = many >= _FEWEST - 1 and many >= _NEARLY_ALL * (known.total() - 1)
        self.usual = shape if enough else None
        self.filled = known.total() >= _NEARLY_ALL * (len(first) - 1)

    def looks_otherwise(self, cell: Cell) -> bool:
        """Whether a cell is not as nearly all others are: of another shape, or blank where they are filled."""
        shape = shape_of(cell)
        return (self.filled and self.usual is not None) if shape is None else shape is not self.usual


def odd_ones(cells: Sequence[Cell], usual: Shape) -> frozenset[int]:
    """The rows whose cell is filled and of another shape."""
    plain = usual is Shape.WORDS
    return frozenset(
        row
        for row, cell in enumerate(cells)
        # Most cells of names have no digit, which is seen at once.
        if not (plain and isinstance(cell, str) and cell.isalpha()) and shape_of(cell) not in {None, usual}
    )
