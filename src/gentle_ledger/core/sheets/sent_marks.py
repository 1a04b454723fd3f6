"""Columns of a sheet that say which rows were sent: our own mark column, and others that read like one."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from gentle_ledger.core.sheets.export import MARK_COLUMNS
from gentle_ledger.core.sheets.model import Cell, Sheet, as_written, column_key, is_blank

_OUR_MARKS = frozenset({"ready", "held", "left out", "to go", "going", "sent", "failed", "unsure"})
_OURS_GONE = ("Sent", "Going", "Unsure")
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
_LOOK_AT = 200
_MOST_WORDS = 20


@dataclass(frozen=True, slots=True)
class SentMarks:
    """A column that says which rows were sent.

    Attributes:
        column: its name.
        ours: True for a mark column that this program wrote.
        rows: the rows (from 0) that it says were sent, or may have been.
        when: a formula that is true for just these rows.
        example: what stands in the first of them.
    """

    column: str
    ours: bool
    rows: frozenset[int]
    when: str
    example: str


def sent_marks(sheet: Sheet) -> tuple[SentMarks, ...]:
    """Every column of the sheet that says of at least one row that it was sent."""
    names = {column_key(name) for name in sheet.columns}
    ours = {column_key(name) for name in MARK_COLUMNS} <= names
    found = []
    for position, name in enumerate(sheet.columns):
        made = _ours(sheet, position) if ours and re.fullmatch(r"mark(?: \d+)?", column_key(name)) else None
        made = made or _like_one(sheet, position)
        if made:
            found.append(made)
    return tuple(found)


def _made(sheet: Sheet, position: int, ours: bool, rows: Sequence[int], when: str) -> SentMarks | None:
    if not rows:
        return None
    example = as_written(sheet.rows[rows[0]][position]).strip()
    return SentMarks(sheet.columns[position], ours, frozenset(rows), when, example)


def _is_one_of(column: str, words: Sequence[str]) -> str:
    quoted = (word.replace('"', '""') for word in words)
    tests = [f'TRIM({{{column}}})="{word}"' for word in quoted]
    return tests[0] if len(tests) == 1 else f"OR({'; '.join(tests)})"


def _ours(sheet: Sheet, position: int) -> SentMarks | None:
    cells = sheet.values(position)
    words = {_word(cell) for cell in cells if not is_blank(cell)}
    if not words <= _OUR_MARKS:
        return None
    gone = {mark.lower() for mark in _OURS_GONE}
    rows = [row for row, cell in enumerate(cells) if _word(cell) in gone]
    return _made(sheet, position, True, rows, _is_one_of(sheet.columns[position], _OURS_GONE))


def _like_one(sheet: Sheet, position: int) -> SentMarks | None:
    """A column of words such as sent and failed; or one that is called "Sent" or the like, of days or of yes."""
    name, cells = sheet.columns[position], sheet.values(position)
    first = [cell for cell in cells[:_LOOK_AT] if not is_blank(cell)]
    by_name = bool(_HEADER.search(column_key(name))) and not _BY_WHOM.search(column_key(name))
    if not by_name and not any(_WENT.fullmatch(_word(cell)) for cell in first):
        # A first sent row far down is seen as well, at the price of one look at each cell.
        first = [cell for cell in cells if not is_blank(cell)] if len(cells) > _LOOK_AT else []
        if not any(isinstance(cell, str) and _WENT.fullmatch(_word(cell)) for cell in first):
            return None
    filled = [(row, _word(cell), cell) for row, cell in enumerate(cells) if not is_blank(cell)]
    went = [row for row, word, _ in filled if _WENT.fullmatch(word)]
    stood = sum(bool(_STOOD.fullmatch(word)) for _, word, _ in filled)
    if went and len(went) + stood >= _NEARLY_ALL * len(filled):
        words = list(dict.fromkeys(as_written(cells[row]).strip() for row in went))
        when = _is_one_of(name, words) if len(words) <= _MOST_WORDS else f'LEFT(TRIM({{{name}}}); 4)="{words[0][:4]}"'
        return _made(sheet, position, False, went, when)
    if not by_name:
        return None
    said = [row for row, word, cell in filled if _says_yes(word, cell)]
    if said and len(said) + stood >= _NEARLY_ALL * len(filled):
        words = list(dict.fromkeys(as_written(cells[row]).strip() for row in said))
        when = _is_one_of(name, words) if stood and len(words) <= _MOST_WORDS else f"NOT(ISBLANK({{{name}}}))"
        return _made(sheet, position, False, said, when)
    return None


def _says_yes(word: str, cell: Cell) -> bool:
    return isinstance(cell, date) or cell is True or word in _YES or bool(_DAY.fullmatch(word))


def _word(cell: Cell) -> str:
    return column_key(as_written(cell)) if isinstance(cell, (str, bool, date)) else ""
