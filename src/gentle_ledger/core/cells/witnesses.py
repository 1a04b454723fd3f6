"""Cells that can witness what went: a reference of ours, or a whole text, as our marked sheet has them in each row."""

import re
from collections.abc import Sequence

from gentle_ledger.core.cells.cell import Cell

_REFERENCE = re.compile(r"[0-9a-f]{32}")
"""As `core.rounds.references` makes them."""
_SHORTEST = 20
"""Characters below which hardly anything is a text; what is shorter is a note that stands in many rows."""


def is_reference(cell: str) -> bool:
    """Whether a cell has the form of a reference of ours."""
    return _REFERENCE.fullmatch(cell) is not None


def as_compared(text: str) -> str:
    """A text as it is compared with one on record: programs that save a sheet write line ends in their own way."""
    return " ".join(text.split())


def witnesses_in(cells: Sequence[Cell]) -> dict[int, str]:
    """By row (from 0), the cells of a column that may be a reference of ours, or a text."""
    found = {}
    for row, cell in enumerate(cells):
        if isinstance(cell, str) and len(cell) >= _SHORTEST:
            text = as_compared(cell)
            if " " in text or is_reference(text):
                found[row] = text
    return found
