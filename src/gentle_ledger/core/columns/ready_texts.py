"""A column of the sheet that holds whole texts, written out already."""

from collections.abc import Sequence
from statistics import median

from gentle_ledger.core.cells.cell import Cell, is_blank
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.readings import Readings

_ROWS = 500
"""Rows that are looked at."""
_LONG, _WORDS, _DIFFERENT, _FILLED = 40, 6, 0.9, 0.8
"""From how many characters and words on a cell may be a text; and which shares have to differ, and to be filled.

Figures of ours.
"""


def ready_texts(readings: Readings, roles: Sequence[Role]) -> str | None:
    """The column whose cells are whole texts: long, of several words, nearly all different; None for none."""
    sheet = readings.sheet
    found: tuple[float, str] | None = None
    for at, name in enumerate(sheet.columns):
        if roles[at] is Role.TEXT and (length := _usual_length([row[at] for row in sheet.rows[:_ROWS]])):
            found = max(found or (0.0, name), (length, name))
    return found[1] if found else None


def _usual_length(cells: Sequence[Cell]) -> float:
    """How long the cells of a column usually are; 0 where they are no texts."""
    texts = [cell.strip() for cell in cells if isinstance(cell, str) and not is_blank(cell)]
    if not texts or len(texts) < _FILLED * len(cells) or len(set(texts)) < _DIFFERENT * len(texts):
        return 0.0
    length, words = median(map(len, texts)), median(len(text.split()) for text in texts)
    return float(length) if length >= _LONG and words >= _WORDS else 0.0
