"""Columns of a sheet that say which rows were sent: our own mark column, and others that read like one."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from gentle_ledger.core.cells.cell import Cell, as_written, column_key, is_blank
from gentle_ledger.core.sheets.export import MARK_COLUMNS
from gentle_ledger.core.sheets.model import Sheet

_OUR_MARKS = frozenset({"ready", "held", "left out", "to go", "going", "sent", "failed", "unsure"})
_OURS_GONE = frozenset({"sent", "going", "unsure"})
"""The marks of ours whose rows may have gone."""
_WENT = re.compile(r"(?:already |text |sms |message )?(?:sent|texted|delivered|arrived|notified|messaged)\b.*")
_STOOD = re.compile(
    r"(?:not (?:sent|yet)|unsent|to send|pending|failed|undelivered|error|held|open|queued|false|no|n)\b.*"
)
_HEADER = re.compile(r"\b(?:sent|texted|messaged|notified|reminded|sms(?: on| date| sent)|text(?: on| date| sent))\b")
_BY_WHOM = re.compile(r"\b(?:by|to|from|who|how)\b")
_YES = frozenset({"yes", "y", "x", "true", "1", "ok", "done", "\u2713", "\u2714", "oui"})
_DAY = re.compile(
    r"\d{4}-\d{2}-\d{2}.*|\d{1,2}[./-]\d{1,2}[./-]\d{2,4}.*|\d{1,2}[ -][^\W\d_]{3,9}\b.*|[^\W\d_]{3,9} \d{1,2}\b.*"
)
_NEARLY_ALL = 0.8


@dataclass(frozen=True, slots=True)
class SentMarks:
    """A column that says which rows were sent.

    Attributes:
        column: its name.
        ours: True for a mark column that this program wrote.
        rows: the rows (from 0) that it says were sent, or may have been.
        example: what stands in the first of them.
    """

    column: str
    ours: bool
    rows: frozenset[int]
    example: str


def sent_marks(sheet: Sheet) -> tuple[SentMarks, ...]:
    """Every column of the sheet that says of at least one row that it was sent."""
    found = (sent_marks_in(sheet, position) for position in range(len(sheet.columns)))
    return tuple(marks for marks in found if marks)


def sent_marks_in(sheet: Sheet, position: int) -> SentMarks | None:
    """What one column of the sheet says; None for one that says of no row that it was sent.

    It hangs on the names of the others as well: only beside our other columns is one called Mark ours.
    """
    names = {column_key(name) for name in sheet.columns}
    ours = {column_key(name) for name in MARK_COLUMNS} <= names
    called_so = re.fullmatch(r"mark(?: \d+)?", column_key(sheet.columns[position]))
    return (_ours(sheet, position) if ours and called_so else None) or _like_one(sheet, position)


def _made(sheet: Sheet, position: int, ours: bool, rows: Sequence[int]) -> SentMarks | None:
    if not rows:
        return None
    example = as_written(sheet.rows[rows[0]][position]).strip()
    return SentMarks(sheet.columns[position], ours, frozenset(rows), example)


def _ours(sheet: Sheet, position: int) -> SentMarks | None:
    words = [_word(cell) for cell in sheet.values(position)]
    if not set(words) - {""} <= _OUR_MARKS:
        return None
    return _made(sheet, position, True, [row for row, word in enumerate(words) if word in _OURS_GONE])


def _like_one(sheet: Sheet, position: int) -> SentMarks | None:
    """A column of words such as sent and failed; or one that is called "Sent" or the like, of days or of yes."""
    name, cells = column_key(sheet.columns[position]), sheet.values(position)
    filled = [(row, _word(cell), cell) for row, cell in enumerate(cells) if not is_blank(cell)]
    went = [row for row, word, _ in filled if _WENT.fullmatch(word)]
    by_name = bool(_HEADER.search(name)) and not _BY_WHOM.search(name)
    if not went and not by_name:
        return None
    stood = sum(bool(_STOOD.fullmatch(word)) for _, word, _ in filled)
    said = [row for row, word, cell in filled if _says_yes(word, cell)] if by_name else []
    for rows in (went, said):
        if rows and len(rows) + stood >= _NEARLY_ALL * len(filled):
            return _made(sheet, position, False, rows)
    return None


def _says_yes(word: str, cell: Cell) -> bool:
    return isinstance(cell, date) or cell is True or word in _YES or bool(_DAY.fullmatch(word))


def _word(cell: Cell) -> str:
    return column_key(as_written(cell)) if isinstance(cell, (str, bool, date)) else ""
